"""Edges and corners as datums, held against the kernel's own edges and vertices, which share no code with the triangles."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_Line, GeomAbs_Plane
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_VERTEX
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from tests.context import CONTEXT
from tests.reference.attack.assemblies import _shapes
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.edit.join import candidates
from uhrwerk.core.joints.at import At
from uhrwerk.core.outlines import Polygon, Rectangle
from uhrwerk.core.part import part_datums
from uhrwerk.core.solids.kernel import Kernel
from uhrwerk.core.steps import AtPoints, Cut, Edges, Extrude, Hole, Spot, Taper
from uhrwerk.core.steps.taper import Leant
from uhrwerk.core.views.measuring import measured
from uhrwerk.core.views.scene import datum_data
from uhrwerk.draft import Draft

BLOCK = Rectangle(length="40 mm", width="20 mm", x="7 mm", y="3 mm")
SHAPES = {
    **_shapes(),
    "grooved": {
        "block": Extrude(name="Block", outline=BLOCK, length="10 mm"),
        "groove": Cut(name="Groove", plane="block.end", outline=Rectangle(length="60 mm", width="4 mm"), depth="3 mm"),
    },
    "pyramid": {
        "block": Extrude(name="Block", plane="xz", outline=Polygon(sides=5, across_flats="0.7 in"), length="12 mm"),
        "lean": Taper(name="Lean", angle="9 deg", faces={"a": Leant(face="block.side_1"), "b": Leant(face="block.side_3")}, from_face="block.start"),
    },
    "bevelled": {
        "block": Extrude(name="Block", outline=BLOCK, length="10 mm"),
        "round": Edges(name="Round", which="between two faces", a="block.side_1", b="block.side_2", size="2 mm"),
        "bevel": Edges(name="Bevel", how="bevel", which="of a face", a="block.start", size="1 mm"),
    },
}  # fmt: skip


def _part(steps: dict[str, Any]) -> tuple[Draft, Any]:
    d = Draft("Edges")
    return d, d.own_part("Part", "steel", steps)


def _each(shape: Any, kind: Any) -> list[Any]:
    walk, out = TopExp_Explorer(shape, kind), []
    while walk.More():
        out.append(walk.Current())
        walk.Next()
    return out


def _of_kernel(document: Any, part: str) -> tuple[np.ndarray, np.ndarray]:
    """Middles of the kernel's straight edges between two flat faces, and its vertices on three: (n, 3) and (m, 3) m."""
    (body,) = part_datums.recipe(document, part)[0]["bodies"]
    edges: dict[int, tuple[Any, set[int]]] = {}
    vertices: dict[int, tuple[Any, set[int]]] = {}
    for face in _each(Kernel().shape(body["steps"]), TopAbs_FACE):
        if BRepAdaptor_Surface(TopoDS.Face(face)).GetType() != GeomAbs_Plane:
            continue
        for there, kind in ((edges, TopAbs_EDGE), (vertices, TopAbs_VERTEX)):
            for x in _each(face, kind):
                there.setdefault(hash(x), (x, set()))[1].add(hash(face))
    middles = []
    for edge, faces in edges.values():
        curve = BRepAdaptor_Curve(TopoDS.Edge(edge))
        if len(faces) == 2 and curve.GetType() == GeomAbs_Line:
            p = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
            middles.append((p.X(), p.Y(), p.Z()))
    points = [BRep_Tool.Pnt_s(TopoDS.Vertex(v)) for v, faces in vertices.values() if len(faces) >= 3]
    ends = [(p.X(), p.Y(), p.Z()) for p in points]
    return np.array(middles).reshape(-1, 3) / 1e3, np.array(ends).reshape(-1, 3) / 1e3


def _same_places(one: np.ndarray, other: np.ndarray) -> bool:
    if one.shape != other.shape:
        return False
    far = np.linalg.norm(one[:, None] - other[None], axis=2)
    return bool((far.min(axis=0) < 1e-9).all() and (far.min(axis=1) < 1e-9).all()) if len(one) else True


@pytest.mark.parametrize("shape", SHAPES)
def test_edges_and_corners_are_those_of_the_kernel(shape: str) -> None:
    d, part = _part(SHAPES[shape])
    document = d.document
    datums = part_datums.datums(document, document.placed[part].part, CONTEXT)
    middles, points = _of_kernel(document, document.placed[part].part)
    edges = np.array([x.origin for n, x in datums.items() if n.count("+") and x.kind == "axis"]).reshape(-1, 3)
    corners = np.array([x.origin for x in datums.values() if x.kind == "point"]).reshape(-1, 3)
    assert _same_places(edges, middles)
    assert _same_places(corners, points)
    assert len(edges) >= 12
    assert len(corners) >= 4


def test_a_name_stays_with_its_edge_when_the_part_grows() -> None:
    """Other sizes, and a hole in the face: the edge of the same two faces is still its own middle, with z the same way."""
    before = part_datums.datums(
        _part({"block": Extrude(name="Block", outline=BLOCK, length="10 mm")})[0].document, "part", CONTEXT
    )
    d, _ = _part(
        {
            "block": Extrude(name="Block", outline=BLOCK.model_copy(update={"length": "60 mm"}), length="25 mm"),
            "hole": Hole(
                name="Hole", plane="block.end", diameter="5 mm", at=AtPoints(spots={"a": Spot(x="7 mm", y="3 mm")})
            ),
        }
    )
    after = part_datums.datums(d.document, "part", CONTEXT)
    assert {n for n in before if "+" in n} == {n for n in after if "+" in n}
    edge, corner = after["block.end+block.side_2"], after["block.end+block.side_1+block.side_2"]
    assert np.allclose(edge.origin, (0.037, 0.003, 0.025), atol=1e-12)
    assert np.allclose(edge.z, (0, 1, 0), atol=1e-12)
    assert edge.length == pytest.approx(0.02, abs=1e-12)
    assert edge.words == "edge"
    assert np.allclose(corner.origin, (0.037, -0.007, 0.025), atol=1e-12)


def test_an_edge_in_two_pieces_gives_two_datums() -> None:
    """A notch across an edge leaves two edges between the same faces: numbered along their line."""
    notch = Cut(
        name="Notch", plane="block.end", outline=Rectangle(length="6 mm", width="60 mm", x="7 mm"), depth="3 mm"
    )
    d, _ = _part({"block": Extrude(name="Block", outline=BLOCK, length="10 mm"), "notch": notch})
    datums = part_datums.datums(d.document, "part", CONTEXT)
    pieces = [x for n, x in datums.items() if x.kind == "axis" and "block.side_1" in n and "block.end" in n]
    assert sorted(round(p.origin[0] * 1e3, 9) for p in pieces) == [-4.5, 18.5]
    assert all(p.length == pytest.approx(0.017, abs=1e-12) for p in pieces)


@pytest.mark.parametrize("mirrored", [False, True])
def test_a_part_swings_about_an_edge(mirrored: bool) -> None:
    """A lid hinged at its own edge on the edge of a box: both edges coincide where the parts then stand."""
    d = Draft("Lid")
    box = d.own_part("Box", "steel", {"block": Extrude(name="Block", outline=BLOCK, length="10 mm")})
    lid = d.own_part("Lid", "steel", {"block": Extrude(name="Block", outline=BLOCK, length="2 mm")}, x="90 mm")
    if mirrored:
        d.set(f"placed.{lid}.mirrored", True)
    d.revolute("Hinge", box["block.end+block.side_3"], lid["block.side_3+block.start"], flip=True)
    m = compile(d.document, CONTEXT)
    pose = solve(m)
    ends = []
    for part, name in ((box, "block.end+block.side_3"), (lid, "block.side_3+block.start")):
        shown = datum_data(d.document, name, m.datums[part][name])
        where = m.part_pose(part, pose)
        w, x, y, z = where[3:]
        turn = np.array(
            [
                [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
                [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
                [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)],
            ]
        )
        ends.append((where[:3] + turn @ np.array(shown["origin"]), turn @ np.array(shown["z"])))
    (o, u), (p, v) = ends
    assert np.allclose(o, p, atol=1e-9)
    assert np.allclose(u, -v, atol=1e-9)
    side = -1 if mirrored else 1  # of the lid the mirrored x
    assert np.allclose(m.datums[lid]["block.side_3+block.start"].origin, (side * 0.007, 0.013, 0), atol=1e-12)


def test_what_a_corner_is_offered() -> None:
    d = Draft("Corner")
    a = d.own_part("A", "steel", {"block": Extrude(name="Block", outline=BLOCK, length="10 mm")})
    b = d.own_part("B", "steel", {"block": Extrude(name="Block", outline=BLOCK, length="10 mm")}, x="90 mm", z="5 mm")
    corner, edge = "block.end+block.side_1+block.side_2", "block.end+block.side_2"

    def offers(one: str, other: str) -> list[str]:
        ends = At(placed=str(a), datum=one), At(placed=str(b), datum=other)
        return [x.kind for x in candidates(d.document, *ends, CONTEXT)]

    assert offers(corner, corner)[:2] == ["corners", "spherical"]
    assert "distance" in offers(corner, corner)
    assert {"rigid", "distance"} <= set(offers("block.end", corner))
    assert {"spherical", "distance"} <= set(offers(corner, edge))
    assert offers(edge, edge)[0] == "corners"
    assert "revolute" in offers(edge, edge)
    told = {
        x["name"]: x["si"]
        for x in measured(d.document, At(placed=str(a), datum="block.end"), At(placed=str(b), datum=corner), CONTEXT)
    }
    assert told["From the face"] == pytest.approx(0.005, abs=1e-12)
    assert "Angle" not in told
