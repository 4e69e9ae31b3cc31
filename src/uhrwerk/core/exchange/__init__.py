"""Open formats in and out, one file each. A new one is a file like the others and its place in the line below."""

from uhrwerk.core.exchange import document, gltf, parts_list, step, stl, three_mf
from uhrwerk.core.exchange.format import FORMATS, Format, register, told, written

for _format in (document.FORMAT, parts_list.FORMAT, step.FORMAT, three_mf.FORMAT, stl.FORMAT, gltf.FORMAT):
    register(_format)

__all__ = ["FORMATS", "Format", "register", "told", "written"]
