"""Reading STEP files (ISO 10303-21) by the kernel: designs, where they are used, names and colours; what was healed and what
was left out is said.

Only worker processes import this module. Lengths come in the file's own unit and are metres afterwards.
"""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from OCP.BinTools import BinTools
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Transform
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepTools import BRepTools
from OCP.collections import Sequence_TDF_Label
from OCP.GeomAbs import GeomAbs_Plane
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf
from OCP.IFSelect import IFSelect_RetDone
from OCP.Quantity import Quantity_Color
from OCP.ShapeFix import ShapeFix_Shape
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_SHELL, TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_ColorGen, XCAFDoc_ColorSurf, XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from uhrwerk.core.solids.blob_store import packed
from uhrwerk.core.solids.imported import ImportedDesign, ImportedSolids, ImportedUse
from uhrwerk.core.solids.partial_solid import each, meeting, volume

#: uses of designs, levels of assemblies, faces of one design at most; sizes of a design, mm
USES, LEVELS, FACES = 500, 40, 20_000
SMALLEST, LARGEST = 1e-3, 1e6


def read_step(data: bytes) -> ImportedSolids:
    """What is in a STEP file. ValueError, in words, where it cannot be had."""
    head = data[:400].lstrip(b"\xef\xbb\xbf \t\r\n")
    if not head.startswith(b"ISO-10303-21"):
        raise ValueError("this is not a STEP file: its first line is not ISO-10303-21")
    if b"END-ISO-10303-21" not in data[-2000:]:
        raise ValueError("it is cut off: its last line, END-ISO-10303-21, is missing")
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "in.step"
        path.write_bytes(data)
        if reader.ReadFile(str(path)) != IFSelect_RetDone:
            raise ValueError("its text is not as STEP files are written")
        if not reader.Transfer(document):
            raise ValueError("nothing in it is a shape")
    reading = _Reading(document)
    top = Sequence_TDF_Label()
    XCAFDoc_DocumentTool.ShapeTool_s(document.Main()).GetFreeShapes(top)
    for k in range(1, top.Length() + 1):
        reading.walk(top.Value(k), gp_Trsf(), "", 0)
    if not reading.uses:
        raise ValueError("there is no solid in it" + (": " + "; ".join(reading.said()) if reading.said() else ""))
    return ImportedSolids(reading.designs, reading.uses, reading.said())


@dataclass
class _Reading:
    document: Any
    designs: list[ImportedDesign] = field(default_factory=list)
    uses: list[ImportedUse] = field(default_factory=list)
    known: dict[tuple[str, bool], list[int]] = field(default_factory=dict)
    healed: list[str] = field(default_factory=list)
    left: dict[str, int] = field(default_factory=dict)

    def said(self) -> list[str]:
        out = (
            [f"healed: {', '.join(self.healed[:5])}{' and others' if len(self.healed) > 5 else ''}"]
            if self.healed
            else []
        )
        return out + [f"left out: {count} {what}{'s' * (count > 1)}" for what, count in self.left.items()]

    def walk(self, label: Any, place: gp_Trsf, name: str, level: int) -> None:
        if level > LEVELS:
            raise ValueError(f"its assemblies lie more than {LEVELS} deep in one another")
        name = name or _name(label)
        if XCAFDoc_ShapeTool.IsReference_s(label):
            design = TDF_Label()
            XCAFDoc_ShapeTool.GetReferredShape_s(label, design)
            here = place.Multiplied(XCAFDoc_ShapeTool.GetLocation_s(label).Transformation())
            self.walk(design, here, name, level + 1)
        elif XCAFDoc_ShapeTool.IsAssembly_s(label):
            inside = Sequence_TDF_Label()
            XCAFDoc_ShapeTool.GetComponents_s(label, inside)
            for k in range(1, inside.Length() + 1):
                self.walk(inside.Value(k), place, "", level + 1)
        else:
            self.use(label, place, name)

    def use(self, label: Any, place: gp_Trsf, name: str) -> None:
        shape = XCAFDoc_ShapeTool.GetShape_s(label)
        own = shape.Location().Transformation()
        place = place.Multiplied(own)
        key = f"{label.Tag()}.{label.Father().Tag()}", place.IsNegative()
        if key not in self.known:
            self.known[key] = self.designs_in(shape.Located(TopLoc_Location()), label, place.IsNegative())
        if place.IsNegative():  # its image: the design is the image behind its yz plane, placed so that it stands right
            behind = gp_Trsf()
            behind.SetMirror(_yz())
            place = place.Multiplied(behind)
        for n, design in enumerate(self.known[key]):
            if len(self.uses) >= USES:
                raise ValueError(f"there are more than {USES} solids in it")
            many = len(self.known[key]) > 1
            self.uses.append(ImportedUse(design, f"{name or 'Part'} {n + 1}" if many else name or "Part", _pose(place)))

    def designs_in(self, shape: Any, label: Any, image: bool) -> list[int]:
        """The designs in a shape: one for each solid."""
        if image:
            behind = gp_Trsf()
            behind.SetMirror(_yz())
            shape = BRepBuilderAPI_Transform(shape, behind, True).Shape()
        solids = each(shape, TopAbs_SOLID, TopoDS.Solid)
        loose = len(_outside(shape, TopAbs_FACE, TopAbs_SOLID))
        for shell in _outside(shape, TopAbs_SHELL, TopAbs_SOLID):
            solid = _closed(shell)
            if solid is not None:
                solids.append(solid)
                loose -= len(each(shell, TopAbs_FACE, TopoDS.Face))
        for what, count in (("surface", loose), ("line", len(_outside(shape, TopAbs_EDGE, TopAbs_FACE)))):
            if count:
                self.left[what] = self.left.get(what, 0) + count
        name, colour, out = _name(label) or "Part", _colour(self.document, label), []
        for k, solid in enumerate(solids, 1):
            own = f"{name} {k}" if len(solids) > 1 else name
            whole, healed = mended(solid, own)
            if healed:
                self.healed.append(f"{own} ({healed})")
            self.designs.append(ImportedDesign(own, contents_of(whole), colour, volume(whole) * 1e-9))
            out.append(len(self.designs) - 1)
        return out


def mended(solid: Any, name: str) -> tuple[Any, str]:
    """A solid that is valid, with faces that were cut up made one again; and what was healed. ValueError where it cannot be."""
    faces, notes = each(solid, TopAbs_FACE, TopoDS.Face), []
    if len(faces) > FACES:
        raise ValueError(f"{name} has {len(faces)} faces; {FACES} are read at most")
    _check_size(solid, name)
    if not BRepCheck_Analyzer(solid).IsValid():
        fix = ShapeFix_Shape(solid)
        fix.Perform()
        (solid,) = each(fix.Shape(), TopAbs_SOLID, TopoDS.Solid)[:1] or [None]
        if solid is None or not BRepCheck_Analyzer(solid).IsValid():
            raise ValueError(f"{name} is not a closed solid, and could not be healed")
        notes.append("its edges and gaps")
    size = volume(solid)
    if size < 0:
        solid, size = solid.Reversed(), -size
        notes.append("turned right side out")
    if not np.isfinite(size) or size <= 0:
        raise ValueError(f"{name} has no volume")
    return _halves_joined(solid, size), ", ".join(notes)


def _halves_joined(solid: Any, size: float) -> Any:
    """The solid with round faces that were cut in halves made one again; flat ones stay as they are divided."""
    unify = ShapeUpgrade_UnifySameDomain(solid, False, True, False)
    for edge, faces in meeting(solid):
        if any(BRepAdaptor_Surface(f).GetType() == GeomAbs_Plane for f in faces):
            unify.KeepShape(edge)
    unify.Build()
    one = each(unify.Shape(), TopAbs_SOLID, TopoDS.Solid)
    good = len(one) == 1 and BRepCheck_Analyzer(one[0]).IsValid() and abs(volume(one[0]) - size) < 1e-7 * size
    return one[0] if good else solid


def contents_of(solid: Any) -> bytes:
    BRepTools.Clean_s(solid)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "out.bin"
        if not BinTools.Write_s(solid, str(path)):
            raise ValueError("the kernel could not keep it")
        return packed(
            "faces", [f"face_{k}" for k, _ in enumerate(each(solid, TopAbs_FACE, TopoDS.Face), 1)], path.read_bytes()
        )


def shape_of_block(block: bytes) -> Any:
    """The kernel's shape from what was kept."""
    shape = TopoDS_Shape()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "in.bin"
        path.write_bytes(block)
        if not BinTools.Read_s(shape, str(path)) or shape.IsNull():
            raise ValueError("its stored copy is damaged")
    return shape


def _check_size(shape: Any, name: str) -> None:
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    if box.IsVoid():
        raise ValueError(f"{name} has no size")
    ends = np.array([c for p in (box.CornerMin(), box.CornerMax()) for c in (p.X(), p.Y(), p.Z())])
    if not np.isfinite(ends).all() or np.abs(ends).max() > LARGEST:
        raise ValueError(f"{name} reaches farther than 1,000 m: its sizes or its unit are wrong")
    if (ends[3:] - ends[:3]).max() < SMALLEST:
        raise ValueError(f"{name} is smaller than a micrometre: its sizes or its unit are wrong")


def _outside(shape: Any, kind: Any, within: Any) -> list[Any]:
    """Shapes of a kind that belong to none of another."""
    out, explorer = [], TopExp_Explorer(shape, kind, within)
    while explorer.More():
        out.append(explorer.Current())
        explorer.Next()
    return out


def _closed(shell: Any) -> Any:
    if not BRep_Tool.IsClosed_s(shell):
        return None
    return BRepBuilderAPI_MakeSolid(TopoDS.Shell(shell)).Solid()


def _yz() -> Any:
    return gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0))


def _pose(t: gp_Trsf) -> list[float]:
    """(7,) position m and unit quaternion (w, x, y, z)."""
    shift, turn = t.TranslationPart(), t.GetRotation()
    return [shift.X() / 1e3, shift.Y() / 1e3, shift.Z() / 1e3, turn.W(), turn.X(), turn.Y(), turn.Z()]


def _name(label: Any) -> str:
    attribute = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), attribute):
        return ""
    text = attribute.Get().ToExtString()
    return "".join(c for c in text if c.isprintable()).strip()[:70]


def _colour(document: Any, label: Any) -> str:
    """#rrggbb of a design, or nothing."""
    tool, colour = XCAFDoc_DocumentTool.ColorTool_s(document.Main()), Quantity_Color()
    shape = XCAFDoc_ShapeTool.GetShape_s(label)
    for one in (shape, *each(shape, TopAbs_FACE, TopoDS.Face)[:1]):  # some write it for each face
        for kind in (XCAFDoc_ColorSurf, XCAFDoc_ColorGen):
            if tool.GetColor(one, kind, colour):
                parts = (colour.Red(), colour.Green(), colour.Blue())
                return "#" + "".join(f"{round(255 * _bright(v)):02x}" for v in parts)
    return ""


def _bright(linear: float) -> float:
    """A component of a colour as screens take it (IEC 61966-2-1)."""
    return 12.92 * linear if linear <= 0.0031308 else 1.055 * linear ** (1 / 2.4) - 0.055


__all__ = ["contents_of", "mended", "read_step", "shape_of_block"]
