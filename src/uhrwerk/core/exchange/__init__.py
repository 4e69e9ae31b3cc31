"""Open formats in and out, one file each. A new one is a file like the others and its place in the line below."""

from uhrwerk.core.exchange import bundle, document, dxf, gltf, parts_list, step, stl, svg, three_mf
from uhrwerk.core.exchange.format import FORMATS, Chosen, Format, Opened, register, written
from uhrwerk.core.exchange.importing import imported_document

for _format in (
    document.FORMAT,
    bundle.FORMAT,
    parts_list.FORMAT,
    step.FORMAT,
    three_mf.FORMAT,
    stl.FORMAT,
    gltf.FORMAT,
    dxf.FORMAT,
    svg.FORMAT,
):
    register(_format)

__all__ = ["FORMATS", "Chosen", "Format", "Opened", "imported_document", "register", "written"]
