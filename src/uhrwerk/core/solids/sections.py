"""Plane sections of solids, exact from the B-rep. Only worker processes import this module."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Ax3, gp_Dir, gp_Pln, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_FACE, TopAbs_WIRE
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.hidden_lines import points_along
from uhrwerk.core.solids.partial_solid import StepFailed, each
from uhrwerk.core.solids.wires import MM

#: a face of a section: its area, m2, and its loops of points [x, y], m, the outer one first
SectionFace = tuple[float, list[list[list[float]]]]


def section(shape: Any, origin: list[float], normal: list[float], right: list[float]) -> list[SectionFace]:
    """The faces in which a plane cuts a solid: through `origin` (m) square to `normal`, with x towards `right`. Areas are the
    kernel's own, of the exact faces; points stray from curves by at most 5 micrometres. StepFailed where the kernel cannot cut it."""
    n, x = np.array(normal), np.array(right)
    y = np.cross(n, x)
    at = np.array(origin) * MM
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    low, high = (np.array([p.X(), p.Y(), p.Z()]) for p in (box.CornerMin(), box.CornerMax()))
    reach = float(np.linalg.norm(high - low) + np.linalg.norm((low + high) / 2 - at)) + 1.0
    plane = gp_Pln(gp_Ax3(gp_Pnt(*at), gp_Dir(*n), gp_Dir(*x)))
    sheet = BRepBuilderAPI_MakeFace(plane, -reach, reach, -reach, reach).Face()
    common = BRepAlgoAPI_Common(shape, sheet)
    if not common.IsDone():
        raise StepFailed("it cannot be cut there")
    faces: list[SectionFace] = []
    for face in each(common.Shape(), TopAbs_FACE, TopoDS.Face):
        properties = GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, properties)
        outer = BRepTools.OuterWire_s(face)
        wires = sorted(each(face, TopAbs_WIRE, TopoDS.Wire), key=lambda w: not w.IsSame(outer))
        loops = [[[float((p - at) @ x) / MM, float((p - at) @ y) / MM] for p in points_along(w)] for w in wires]
        faces.append((abs(properties.Mass()) / MM**2, loops))
    return faces
