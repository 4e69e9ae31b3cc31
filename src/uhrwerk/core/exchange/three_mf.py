"""3MF: all parts as they stand, for printing: triangles with names, millimetres (3MF Core Specification 1.3)."""

from __future__ import annotations

import io
import zipfile
from xml.sax.saxutils import quoteattr

import numpy as np

from uhrwerk.core.checks import Evaluation
from uhrwerk.core.exchange.format import Format
from uhrwerk.core.exchange.placing import standing

_TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
)
_RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/>'
    "</Relationships>"
)
_MODEL = (
    '<?xml version="1.0" encoding="UTF-8"?>'
    '<model unit="millimeter" xml:lang="en" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">'
)


def _written(e: Evaluation) -> bytes:
    objects: list[str] = []
    items: list[str] = []
    for one in standing(e):
        for _, vertices, triangles in one.bodies():
            number = len(items) + 1
            points = "".join(f'<vertex x="{x:.9g}" y="{y:.9g}" z="{z:.9g}"/>' for x, y, z in vertices * 1e3)
            faces = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in np.asarray(triangles))
            objects.append(
                f'<object id="{number}" type="model" name={quoteattr(one.name)}><mesh><vertices>{points}</vertices>'
                f"<triangles>{faces}</triangles></mesh></object>"
            )
            items.append(f'<item objectid="{number}"/>')
    model = f"{_MODEL}<resources>{''.join(objects)}</resources><build>{''.join(items)}</build></model>"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        for name, text in (("[Content_Types].xml", _TYPES), ("_rels/.rels", _RELATIONS), ("3D/3dmodel.model", model)):
            package.writestr(zipfile.ZipInfo(name), text)  # without the time: the same mechanism gives the same file
    return out.getvalue()


FORMAT = Format(".3mf", "Triangles for printing", "model/3mf", write=_written)
