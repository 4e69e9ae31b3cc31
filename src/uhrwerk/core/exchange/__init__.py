"""Open formats in and out, one file each, listed in `registry`."""

from uhrwerk.core.exchange.format import Chosen, Format, Opened
from uhrwerk.core.exchange.importing import imported_document
from uhrwerk.core.exchange.registry import FORMATS, written

__all__ = ["FORMATS", "Chosen", "Format", "Opened", "imported_document", "written"]
