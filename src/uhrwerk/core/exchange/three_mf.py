"""3MF: all parts as they stand, for printing: triangles with names, millimetres (3MF Core Specification 1.3)."""

from __future__ import annotations

import io
import zipfile
import zlib
from xml.parsers import expat
from xml.sax.saxutils import quoteattr

import numpy as np

from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.exchange.meshes import USES, Mesh, of_meshes
from uhrwerk.core.exchange.placing import standing
from uhrwerk.core.solids.imported import ImportedSolids
from uhrwerk.core.stages.evaluation import Evaluation

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


def _written(e: Evaluation, chosen: Chosen) -> bytes:
    objects: list[str] = []
    items: list[str] = []
    for one in standing(e, chosen):
        bodies = []
        for _, vertices, triangles in one.bodies():
            number = len(objects) + 1
            points = "".join(f'<vertex x="{x:.9g}" y="{y:.9g}" z="{z:.9g}"/>' for x, y, z in vertices * 1e3)
            faces = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in np.asarray(triangles))
            objects.append(
                f'<object id="{number}" type="model" name={quoteattr(one.name)}><mesh><vertices>{points}</vertices>'
                f"<triangles>{faces}</triangles></mesh></object>"
            )
            bodies.append(number)
        if len(bodies) > 1:  # one part is one object, whatever it is made of
            number = len(objects) + 1
            members = "".join(f'<component objectid="{b}"/>' for b in bodies)
            name = quoteattr(one.name)
            objects.append(
                f'<object id="{number}" type="model" name={name}><components>{members}</components></object>'
            )
        items.append(f'<item objectid="{len(objects)}"/>')
    model = f"{_MODEL}<resources>{''.join(objects)}</resources><build>{''.join(items)}</build></model>"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        for name, text in (("[Content_Types].xml", _TYPES), ("_rels/.rels", _RELATIONS), ("3D/3dmodel.model", model)):
            package.writestr(zipfile.ZipInfo(name), text)  # without the time: the same mechanism gives the same file
    return out.getvalue()


#: units of 3MF, m
_UNITS = {"micron": 1e-6, "millimeter": 1e-3, "millimeters": 1e-3, "centimeter": 1e-2, "inch": 0.0254, "foot": 0.3048, "meter": 1.0}  # fmt: skip
#: bytes of what an archive unfolds to, and files in it, at most
UNFOLDED, FILES = 400_000_000, 500


def _read(data: bytes, _: float) -> ImportedSolids:
    models = _models(data)
    import trimesh  # slow to import, and seldom needed

    scene = trimesh.load_scene(io.BytesIO(data), file_type="3mf", process=False)
    unit = str(next((g.metadata.get("units") for g in scene.geometry.values() if "units" in g.metadata), "millimeter"))
    if unit not in _UNITS:
        raise ValueError(f"its unit {unit!r} is not a unit of 3MF")
    meshes: list[Mesh] = []
    for node in scene.graph.nodes_geometry:
        if len(meshes) >= USES:
            raise ValueError(f"there are more than {USES} solids in it")
        matrix, name = scene.graph[node]
        mesh = scene.geometry[name]
        meshes.append((str(name), np.asarray(mesh.vertices), np.asarray(mesh.faces), np.asarray(matrix)))
    if not meshes:
        raise ValueError("nothing is built in it" if models else "there is no model in it")
    return of_meshes(meshes, _UNITS[unit])


def _models(data: bytes) -> list[str]:
    """The names of its models. ValueError where the archive is broken, unfolds to too much, or its text asks for entities."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            files = archive.infolist()
            if len(files) > FILES or sum(f.file_size for f in files) > UNFOLDED:
                raise ValueError(f"it unfolds to more than {UNFOLDED // 10**6} MB, or to more than {FILES} files")
            models, unfolded = [], 0
            for f in files:
                if not f.filename.lower().endswith(".model"):
                    continue
                models.append(f.filename)
                parser = _parser()
                with archive.open(f) as text:
                    while block := text.read(1 << 20):  # what is stated of its size may be untrue
                        unfolded += len(block)
                        if unfolded > UNFOLDED:
                            raise ValueError(f"it unfolds to more than {UNFOLDED // 10**6} MB")
                        parser.Parse(block)
                parser.Parse(b"", True)
            return models
    except expat.ExpatError as error:
        raise ValueError(f"its text is broken in line {error.lineno}") from error
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, zlib.error) as error:
        raise ValueError("this is not a 3MF file, or it is damaged") from error


def _parser() -> expat.XMLParserType:
    """A reader of XML that stops, wherever it stands and however it is encoded, at what 3MF does not allow: a document type, entities."""
    parser = expat.ParserCreate()

    def declared(*_: object) -> None:
        raise ValueError("its text declares a document type or entities, which 3MF does not allow")

    def begun(_: str, encoding: str | None, __: int) -> None:
        if encoding is not None and encoding.lower() not in ("utf-8", "utf-16"):
            raise ValueError(f"its text is in {encoding}, which 3MF does not allow")

    parser.StartDoctypeDeclHandler = parser.EntityDeclHandler = declared
    parser.XmlDeclHandler = begun
    return parser


FORMAT = Format(".3mf", "Triangles for printing", "model/3mf", write=_written, take=_read, still=True)
