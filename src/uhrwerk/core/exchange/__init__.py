"""Open formats in and out, one file each. A new one is a file like the others and its place in the line below."""

from uhrwerk.core.exchange import document, parts_list
from uhrwerk.core.exchange.format import FORMATS, Format, register, told, written

for _format in (document.FORMAT, parts_list.FORMAT):
    register(_format)

__all__ = ["FORMATS", "Format", "register", "told", "written"]
