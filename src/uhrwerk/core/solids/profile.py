"""The lines round a body's largest flat face. Only worker processes import this module."""

from __future__ import annotations

from math import pi, tan
from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools, BRepTools_WireExplorer
from OCP.GCPnts import GCPnts_QuasiUniformDeflection
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Line, GeomAbs_Plane
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED, TopAbs_WIRE
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.datum import face_axes
from uhrwerk.core.solids.partial_solid import each, normal_at
from uhrwerk.core.solids.wires import MM

#: how far straight pieces stray from curves that are no arcs, mm
STRAY = 2e-3

Corner = tuple[float, float, float]  # x, y, m; bulge of the way to the next: tangent of a quarter of the arc's angle
Line = tuple[list[Corner], tuple[tuple[float, float], float] | None]


def profile(solids: list[Any]) -> list[Line]:
    """Corners of each line round the largest flat face, the outer one first, or a circle. ValueError where no face is flat."""
    flat: list[tuple[float, int, Any]] = []
    for solid in solids:
        for face in each(solid, TopAbs_FACE, TopoDS.Face):
            if BRepAdaptor_Surface(face).GetType() == GeomAbs_Plane:
                size = GProp_GProps()
                BRepGProp.SurfaceProperties_s(face, size)
                flat.append((size.Mass(), len(flat), face))
    if not flat:
        raise ValueError("none of its faces is flat: there is no outline to write")
    largest = max(size for size, _, _ in flat)
    face = next(face for size, _, face in flat if size > largest * (1 - 1e-9))
    x, y = face_axes(normal_at(face))
    outer = BRepTools.OuterWire_s(face)
    wires = sorted(each(face, TopAbs_WIRE, TopoDS.Wire), key=lambda w: not w.IsSame(outer))
    return [_line(w, face, np.stack([x, y])) for w in wires]


def _line(wire: Any, face: Any, axes: np.ndarray) -> Line:
    corners: list[Corner] = []
    walk = BRepTools_WireExplorer(wire, face)
    while walk.More():
        edge = walk.Current()
        curve = BRepAdaptor_Curve(edge)
        ends = [curve.FirstParameter(), curve.LastParameter()]
        back = edge.Orientation() == TopAbs_REVERSED

        def at(t: float, curve: Any = curve) -> np.ndarray:
            p = curve.Value(t)
            return np.asarray(axes @ np.array([p.X(), p.Y(), p.Z()]) / MM)

        a, b = (at(t) for t in (reversed(ends) if back else ends))
        middle = at(sum(ends) / 2)
        if curve.GetType() == GeomAbs_Circle and ends[1] - ends[0] > 2 * pi - 1e-9:
            p = curve.Circle().Location()
            x, y = axes @ np.array([p.X(), p.Y(), p.Z()]) / MM
            return [], ((float(x), float(y)), curve.Circle().Radius() / MM)
        if curve.GetType() == GeomAbs_Circle:
            chord, to = b - a, middle - a
            leftward = chord[0] * to[1] - chord[1] * to[0] > 0  # the arc lies left of its chord: it turns to the right
            corners.append((*_pair(a), (-1 if leftward else 1) * tan((ends[1] - ends[0]) / 4)))
        elif curve.GetType() == GeomAbs_Line:
            corners.append((*_pair(a), 0.0))
        else:
            points = GCPnts_QuasiUniformDeflection(curve, STRAY)
            some = [
                axes @ np.array([p.X(), p.Y(), p.Z()]) / MM for p in map(points.Value, range(1, points.NbPoints() + 1))
            ]
            corners += [(*_pair(p), 0.0) for p in (some[::-1] if back else some)[:-1]]
        walk.Next()
    return corners, None


def _pair(p: np.ndarray) -> tuple[float, float]:
    return float(p[0]), float(p[1])


__all__ = ["profile"]
