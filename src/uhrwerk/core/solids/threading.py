"""Threads as helical solids: one turn of the profile swept along a helix and set upon itself. A few turns are closed and trimmed to
the thread's two ends; the whole turns between them are repeated as often as the length asks.

Nothing helical is ever cut against the round face that it lies on: the kernel is then unsure, and at times takes all of the part
away. Instead a ring of the part is taken out, its faces planes and cylinders, and a ring with the thread set in its place. The
ring's volume is compared with its closed form: a section in a plane through the axis, turned by an angle as it rises, sweeps the
integral of its radius over its area, times that angle.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import ceil, cos, floor, hypot, pi, tan
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Sewing,
    BRepBuilderAPI_Transform,
)
from OCP.BRepLib import BRepLib
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
from OCP.Geom import Geom_CylindricalSurface
from OCP.Geom2d import Geom2d_Line
from OCP.GeomAbs import GeomAbs_Cylinder
from OCP.gp import gp_Ax1, gp_Ax2, gp_Ax3, gp_Dir, gp_Dir2d, gp_Pnt, gp_Pnt2d, gp_Trsf, gp_Vec
from OCP.ShapeFix import ShapeFix_ShapeTolerance
from OCP.TopAbs import TopAbs_EDGE, TopAbs_SHELL, TopAbs_VERTEX
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS

from uhrwerk.core.solids.face_names import Names
from uhrwerk.core.solids.partial_solid import PartialSolid, StepFailed, Tool, each, faces_of, is_outward, joined, volume
from uhrwerk.core.solids.recipe import Step
from uhrwerk.core.solids.wires import MM

#: parts of the pitch by which the ring reaches beyond the thread's root, and the swept turns beyond the ring
WALL, UNDER = 0.1, 0.2
#: part by which a ring's volume may be off; part of a pitch that is not set on top of whole ones
OFF, SLIVER = 1e-4, 1e-6
#: pitches that are trimmed: a turn of each face lies whole between their ends
ENDS = 3
#: how near a corner lies to the end that it was trimmed to, mm
AT_END = 1e-6
#: how well the edges of a ring are known, mm
NEAR = 1e-5
#: faces of one turn: two flanks, crest and root
SIDES = 4
#: where round the axis a turn begins, rad
SEAM = 2.0

Points = list[tuple[float, float]]  # radius, height; mm


@dataclass(frozen=True)
class Spot:
    """Where a thread goes: the face's radius, its axis as the kernel's frame with z along it, from where to where on it; mm."""

    radius: float
    frame: gp_Ax3
    low: float
    high: float
    outward: bool


def threaded(partial: PartialSolid, step: Step) -> PartialSolid:
    """The part with a thread on one of its round faces; unchanged where it is drawn plain."""
    spot = _spot(partial, step)
    m = {k: step[k] * MM for k in ("d", "pitch", "middle", "root", "inner", "outer", "gap")}
    ridge = _on_a_pin(spot, m, step["flank"]) if spot.outward else _in_a_bore(spot, m, step["flank"])
    if step["plain"]:
        return PartialSolid(partial.shape, partial.names, partial.tools, volume=partial.volume)
    points, lowest, highest, crest = ridge
    pitch, height = m["pitch"], spot.high - spot.low
    inner, outer = (
        (lowest + (UNDER - WALL) * pitch, highest + 1.0)
        if spot.outward
        else (min(spot.radius, crest) - WALL * pitch, highest + WALL * pitch)
    )

    def swept(height: float) -> float:
        """Volume of a ring of so much height, mm3."""
        ridge_and_core = _swept([*points, (inner, points[-1][1]), (inner, points[0][1])], pitch, height)
        return ridge_and_core if spot.outward else pi * (outer**2 - inner**2) * height - ridge_and_core

    repeats = max(floor(height / pitch + SLIVER) - ENDS, 0)
    short = height - repeats * pitch
    turns, tube = _turns(points, lowest, pitch, short, step["left"]), _tube(inner, outer, short)
    ends = (BRepAlgoAPI_Common(turns, tube) if spot.outward else BRepAlgoAPI_Cut(tube, turns)).Shape()
    if abs(volume(ends) - swept(short)) > OFF * swept(short):
        raise StepFailed("the kernel cannot cut this thread; draw it plain")
    ring = _placed(_stacked(ends, short, repeats, pitch, inner if spot.outward else outer), spot)
    # its crest's edges lie beside circles of the part, nearer than they are known: slivers would be left between
    ShapeFix_ShapeTolerance().LimitTolerance(ring, NEAR)
    low, high = (inner, spot.radius) if spot.outward else (spot.radius, outer)
    away = _placed(_tube(low, high, height), spot)
    own = step["id"]
    bare = joined(partial, [Tool(away, Names((f, f"{own}.ring") for f in faces_of(away)), False)])
    after = joined(bare, [Tool(ring, Names((f, f"{own}.thread") for f in faces_of(ring)), True, stands=True)])
    return PartialSolid(after.shape, after.names, partial.tools, volume=volume(bare.shape) + swept(height))


def _spot(partial: PartialSolid, step: Step) -> Spot:
    face = partial.face(step["face"])
    surface = BRepAdaptor_Surface(face)
    if surface.GetType() != GeomAbs_Cylinder or surface.LastUParameter() - surface.FirstUParameter() < 2 * pi - 1e-6:
        raise StepFailed(f"face {step['face']} is not round all the way")
    cylinder = surface.Cylinder()
    axis, origin = cylinder.Axis().Direction(), cylinder.Location()
    z = np.array([axis.X(), axis.Y(), axis.Z()])
    ends = [surface.FirstVParameter(), surface.LastVParameter()]
    if next(c for c in z[::-1] if abs(c) > 1e-9) < 0:  # along the part's z, or y, or x, as its datum points
        z, ends = -z, [-v for v in reversed(ends)]
    low, high = ends
    if step["length"] > 0:
        length = step["length"] * MM
        if length > high - low + 1e-6:
            raise StepFailed(f"face {step['face']} is only {high - low:.4g} mm long")
        low, high = (high - length, high) if step["at_end"] else (low, low + length)
    return Spot(cylinder.Radius(), gp_Ax3(origin, gp_Dir(*z)), low, high, is_outward(face))


def _on_a_pin(spot: Spot, m: dict[str, float], flank: float) -> tuple[Points, float, float, float]:
    """The ridge of one pitch; the smallest radius swept, the largest, and the crest's."""
    pitch, gap = m["pitch"], m["gap"]
    crest, root = min(spot.radius, m["d"] / 2 - gap), m["root"] / 2 - gap
    if not m["middle"] / 2 < crest <= m["d"] / 2 or spot.radius > m["d"] / 2 + pitch:
        raise StepFailed(f"the face is {2 * spot.radius:.4g} mm wide: the thread asks for {m['d']:.4g} mm")

    def half(r: float) -> float:
        return pitch / 4 - (r - m["middle"] / 2) * tan(flank) - gap / cos(flank)

    low = root - UNDER * pitch
    if half(crest) <= 0.005 * pitch or half(root) >= pitch / 2 or low <= 0:
        raise StepFailed("its gap leaves no crest")
    return _profile(root, crest, half, pitch), low, crest, crest


def _in_a_bore(spot: Spot, m: dict[str, float], flank: float) -> tuple[Points, float, float, float]:
    """The same of the space that a bore's thread leaves free."""
    pitch, gap = m["pitch"], m["gap"]
    crest, root = max(spot.radius, m["inner"] / 2 + gap), m["outer"] / 2 + gap
    if crest >= m["middle"] / 2 or spot.radius < m["inner"] / 2 - pitch:
        raise StepFailed(f"the bore is {2 * spot.radius:.4g} mm wide: the thread asks for {m['inner']:.4g} mm")

    def half(r: float) -> float:
        return pitch / 4 - (r - m["middle"] / 2) * tan(flank) + gap / cos(flank)

    low = min(spot.radius, crest) - UNDER * pitch
    if half(crest) >= pitch / 2 * 0.99 or half(root) <= 0 or low <= 0:
        raise StepFailed("its gap leaves no crest")
    return _profile(crest, root, half, pitch), low, root, crest


def _profile(low: float, high: float, half: Callable[[float], float], pitch: float) -> Points:
    """One pitch of a ridge from radius `low` to `high`, its middle at half the pitch."""
    foot = pitch / 2 - half(low)
    return [
        (low, foot),
        (high, pitch / 2 - half(high)),
        (high, pitch / 2 + half(high)),
        (low, pitch - foot),
        (low, pitch + foot),
    ]


def _stacked(ends: Any, short: float, repeats: int, pitch: float, seat: float) -> Any:
    """A ring of a few pitches, `short` in height, with so many turns more between its ends, on one round face of radius `seat`. In
    the thread's own frame. What was trimmed at the upper end rises; each of the uppermost whole faces is repeated beneath it."""
    lower, whole, upper = list[Any](), list[tuple[float, Any]](), list[Any]()
    for face in faces_of(ends):
        surface = BRepAdaptor_Surface(face)
        if surface.GetType() == GeomAbs_Cylinder and abs(surface.Cylinder().Radius() - seat) < 1e-6:
            continue
        heights = [BRep_Tool.Pnt_s(v).Z() for v in each(face, TopAbs_VERTEX, TopoDS.Vertex)]
        if min(heights) < AT_END:
            lower.append(face)
        elif max(heights) > short - AT_END:
            upper.append(face)
        else:
            whole.append((min(heights), face))
    whole.sort(key=lambda one: one[0])
    sewing = BRepBuilderAPI_Sewing(1e-4)

    def add(face: Any, turns: int) -> None:
        up = gp_Trsf()
        up.SetTranslation(gp_Vec(0, 0, turns * pitch))
        sewing.Add(BRepBuilderAPI_Transform(face, up, True).Shape())

    for face in [*lower, *(face for _, face in whole)]:
        add(face, 0)
    for face in upper:
        add(face, repeats)
    for _, face in whole[-SIDES:]:
        for turns in range(1, repeats + 1):
            add(face, turns)
    foot = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
    for face in faces_of(BRepPrimAPI_MakeCylinder(foot, seat, short + repeats * pitch).Shape()):
        if BRepAdaptor_Surface(face).GetType() == GeomAbs_Cylinder:
            sewing.Add(face)
    return _closed(sewing)


def _turns(points: Points, inner: float, pitch: float, height: float, left_hand: bool) -> Any:
    """The swept profile, hollow inside, a turn beyond both ends of a height from nothing up; in the thread's own frame."""
    count, foot = ceil(height / pitch) + 3, -2 * pitch
    loop = [(inner, points[0][1]), *points, (inner, points[-1][1])]
    edge = BRepBuilderAPI_MakeEdge(
        Geom2d_Line(gp_Pnt2d(0, 0), gp_Dir2d(-2 * pi if left_hand else 2 * pi, pitch)),
        Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, foot), gp_Dir(0, 0, 1)), points[0][0]), 0, hypot(2 * pi, pitch),
    ).Edge()  # fmt: skip
    BRepLib.BuildCurves3d_s(edge)
    pipe = BRepOffsetAPI_MakePipeShell(BRepBuilderAPI_MakeWire(edge).Wire())
    pipe.SetMode(gp_Dir(0, 0, 1))
    pipe.SetTolerance(1e-6, 1e-6, 1e-4)
    start = _loop(loop, foot)
    pipe.Add(start, TopExp.FirstVertex_s(edge, True), False, False)
    pipe.Build()
    bottom, *sides, top, inside = [pipe.Generated(e).First() for e in each(start, TopAbs_EDGE, TopoDS.Edge)]
    sewing = BRepBuilderAPI_Sewing(1e-4)
    for k in range(count):
        up = gp_Trsf()
        up.SetTranslation(gp_Vec(0, 0, k * pitch))
        for face in [*sides, inside, *([bottom] if k == 0 else []), *([top] if k == count - 1 else [])]:
            sewing.Add(BRepBuilderAPI_Transform(face, up, True).Shape())
    for at in (foot, foot + count * pitch):
        sewing.Add(BRepBuilderAPI_MakeFace(_loop(loop, at)).Face())
    about, up = gp_Trsf(), gp_Trsf()  # along itself, so that no seam ends in a plane that it is cut by
    about.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), -SEAM if left_hand else SEAM)
    up.SetTranslation(gp_Vec(0, 0, SEAM / (2 * pi) * pitch))
    return BRepBuilderAPI_Transform(_closed(sewing), up.Multiplied(about), True).Shape()


def _closed(sewing: BRepBuilderAPI_Sewing) -> Any:
    """The solid that sewn faces enclose."""
    sewing.Perform()
    shells = each(sewing.SewedShape(), TopAbs_SHELL, TopoDS.Shell)
    if len(shells) != 1 or sewing.NbFreeEdges():
        raise StepFailed("the kernel cannot close this thread; draw it plain")
    solid = BRepBuilderAPI_MakeSolid(shells[0]).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def _loop(points: Points, height: float) -> Any:
    polygon = BRepBuilderAPI_MakePolygon()
    for r, h in points:
        polygon.Add(gp_Pnt(r, 0, height + h))
    polygon.Close()
    return polygon.Wire()


def _tube(inner: float, outer: float, height: float) -> Any:
    foot = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
    full, hollow = (BRepPrimAPI_MakeCylinder(foot, r, height).Shape() for r in (outer, inner))
    return BRepAlgoAPI_Cut(full, hollow).Shape()


def _placed(shape: Any, spot: Spot) -> Any:
    """A shape of the thread's own frame where the thread goes."""
    up, move = gp_Trsf(), gp_Trsf()
    up.SetTranslation(gp_Vec(0, 0, spot.low))
    move.SetTransformation(spot.frame, gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)))
    return BRepBuilderAPI_Transform(shape, move.Multiplied(up), True).Shape()


def _swept(loop: Points, pitch: float, height: float) -> float:
    """Volume (mm3) that a section's loop of one pitch sweeps over a height."""
    total = 0.0
    for (r1, h1), (r2, h2) in zip(loop, [*loop[1:], loop[0]], strict=True):
        total += (h2 - h1) * (r1 * r1 + r1 * r2 + r2 * r2) / 6  # of the integral of r over its area, by Green
    return abs(total) * 2 * pi / pitch * height


__all__ = ["threaded"]
