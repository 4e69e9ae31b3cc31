"""STEP files (ISO 10303-21, application protocol 214 or 242) by the kernel: designs, their places, names and colours.

Only worker processes import this module. Lengths in the file are millimetres.
"""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any, TypedDict

from OCP.BRep import BRep_Builder
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Compound
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_Area, XCAFDoc_Centroid, XCAFDoc_ColorGen, XCAFDoc_DocumentTool, XCAFDoc_Volume

from uhrwerk.core.solids.exact_measures import transformed
from uhrwerk.core.solids.kernel import Kernel
from uhrwerk.core.solids.recipe import Recipe


class ExportedDesign(TypedDict):
    """A design: its name, how it is made, its colour (red, green, blue of 0 to 1)."""

    name: str
    recipe: Recipe
    colour: tuple[float, float, float]


class ExportedUse(TypedDict):
    """One use of a design: its place among the designs, its name, its pose (7,) m."""

    design: int
    name: str
    pose: Any


def step_file(kernel: Kernel, title: str, designs: list[ExportedDesign], uses: list[ExportedUse]) -> bytes:
    """The contents of a STEP file with an assembly of all uses."""
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    labels = []
    for design in designs:
        label = shapes.AddShape(_whole(kernel, design["recipe"]), False)
        _call(label, design["name"])
        _state_properties(label, shapes.GetShape_s(label))
        colours.SetColor(label, Quantity_Color(*design["colour"], Quantity_TOC_sRGB), XCAFDoc_ColorGen)
        labels.append(label)
    assembly = shapes.NewShape()
    _call(assembly, title)
    for use in uses:
        _call(
            shapes.AddComponent(assembly, labels[use["design"]], TopLoc_Location(transformed(use["pose"]))), use["name"]
        )
    shapes.UpdateAssemblies()
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    writer.SetPropsMode(True)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "out.step"
        if not writer.Transfer(document, STEPControl_AsIs) or writer.Write(str(path)) != IFSelect_RetDone:
            raise ValueError("the kernel could not write the file")
        return path.read_bytes()


def _state_properties(label: Any, shape: Any) -> None:
    """Volume, surface and centre of gravity, mm, by which a reader can tell whether it has the same solid (the geometric validation
    properties of ISO 10303; recommended practice of the CAx Implementor Forum, from memory)."""
    volume, surface = GProp_GProps(), GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, volume)
    BRepGProp.SurfaceProperties_s(shape, surface)
    XCAFDoc_Volume.Set_s(label, volume.Mass())
    XCAFDoc_Area.Set_s(label, surface.Mass())
    XCAFDoc_Centroid.Set_s(label, volume.CentreOfMass())


def _call(label: Any, name: str) -> None:
    TDataStd_Name.Set_s(label, TCollection_ExtendedString(name, True))


def _whole(kernel: Kernel, recipe: Recipe) -> Any:
    """All bodies of a design as one shape."""
    solids = [kernel.shape(b["steps"]) for b in recipe["bodies"]]
    if len(solids) == 1:
        return solids[0]
    whole, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(whole)
    for solid in solids:
        builder.Add(whole, solid)
    return whole


__all__ = ["ExportedDesign", "ExportedUse", "step_file"]
