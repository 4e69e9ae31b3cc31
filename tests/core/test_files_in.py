"""Files in: solids, places, names and colours that come back as they went; what others write; what replaces a file."""

from __future__ import annotations

import io
import time
from pathlib import Path

import ezdxf
import lib3mf
import numpy as np
import pytest
import shapely
import trimesh

from tests.parts import bracket
from uhrwerk import (
    Clearance,
    Document,
    Draft,
    Evaluation,
    Evaluator,
    NoInterference,
    Pin,
    ValidationFailed,
    export,
    load,
    read,
    write,
)
from uhrwerk.core.document import parse
from uhrwerk.core.document.requirement import Of
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.replace import replaced
from uhrwerk.core.exchange import Chosen, imported_document, written
from uhrwerk.core.outlines import Rectangle
from uhrwerk.core.solids import Body
from uhrwerk.core.steps import Extrude, Hole
from uhrwerk.core.steps.hole import AtPoints, Spot
from uhrwerk.draft import Handle


def plate(bore: str = "10 mm", x: str = "20 mm", second: bool = True, name: str = "Lug") -> Draft:
    """A lug with one bore or two, from build steps alone."""
    steps = {
        "slab": Extrude(name="Slab", outline=Rectangle(length="60 mm", width="30 mm"), length="8 mm"),
        "eye": Hole(name="Eye", plane="slab.end", diameter=bore, through=True, at=AtPoints(spots={"a": Spot(x=x)})),
    }
    if second:
        steps["foot"] = Hole(name="Foot", plane="slab.end", diameter="6 mm", through=True, at=AtPoints(spots={"a": Spot(x="-20 mm")}))  # fmt: skip
    draft = Draft("Lugs")
    draft.own_part(name, "steel", steps)
    return draft


def file_of(evaluator: Evaluator, draft: Draft, name: str) -> bytes:
    return written(name, evaluator.evaluate(draft.document))[0]


@pytest.fixture(scope="module")
def sent(evaluator: Evaluator) -> Evaluation:
    """An assembly: three uses of one design, turned and moved, and another with a colour of its own."""
    draft = plate()
    draft.place("lug", "Second lug", x="80 mm", y="10 mm", turn_x="30 deg", turn_y="-20 deg", turn_z="70 deg")
    draft.place("lug", "Third lug", x="-90 mm", turn_z="180 deg")
    draft.own_part("Bracket <&> ü", "brass", bracket().steps, y="70 mm", turn_x="90 deg")
    draft.do(parse({"kind": "set_value", "path": "parts.bracket.colour", "value": "#3366cc"}))
    return evaluator.evaluate(draft.document)


def area(body: Body) -> float:
    return float(trimesh.Trimesh(body.vertices, body.triangles, process=False).area)


def test_what_is_no_solid_or_not_level_is_said(evaluator: Evaluator, tmp_path: Path) -> None:
    """A face beside a box in one STEP file; a circle stood upright, a sloping line and one seen from below in a drawing."""
    from OCP.BRep import BRep_Builder
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
    from OCP.gp import gp_Pln
    from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer
    from OCP.TopoDS import TopoDS_Compound

    both, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(both)
    builder.Add(both, BRepPrimAPI_MakeBox(10, 20, 30).Shape())
    builder.Add(both, BRepBuilderAPI_MakeFace(gp_Pln(), 50, 60, 50, 60).Face())
    writer = STEPControl_Writer()
    writer.Transfer(both, STEPControl_AsIs)
    writer.Write(str(tmp_path / "both.step"))
    document = load(tmp_path / "both.step")
    assert "1 surface" in document.note
    (solid,) = evaluator.evaluate(document).solids.values()
    assert solid.volume == pytest.approx(6e-6, rel=1e-9)
    d = ezdxf.new("R2010", units=4)
    m = d.modelspace()
    m.add_circle((5, 5), 5, dxfattribs={"extrusion": (0, 1, 0)})
    m.add_line((0, 0, 0), (10, 0, 10))
    m.add_lwpolyline(
        [(-30, 0), (-10, 0, 0, 0, 1), (-10, 10), (-30, 10)], close=True, dxfattribs={"extrusion": (0, 0, -1)}
    )
    out = io.StringIO()
    d.write(out)
    drawn = imported_document("mixed.dxf", out.getvalue().encode(), evaluator.context)
    assert drawn.note == "left out: 1 CIRCLE that is not level, 1 LINE that is not level"
    (step,) = next(iter(drawn.parts.values())).steps.values()
    corners = step.outline.corners.values()  # type: ignore[attr-defined]
    assert {float(c.x.removesuffix(" mm")) for c in corners} == {10.0, 30.0}  # below, x runs the other way
    (plate_,) = evaluator.evaluate(drawn).solids.values()
    assert plate_.volume * 1e9 == pytest.approx(5 * (200 + np.pi * 25 / 2), rel=1e-6)


def test_a_step_file_comes_back_as_it_went(evaluator: Evaluator, sent: Evaluation) -> None:
    back = evaluator.evaluate(imported_document("lugs.step", written("lugs.step", sent)[0], evaluator.context))
    assert len(back.document.parts) == 2
    assert not back.problems
    by_name = {p.name: i for i, p in back.document.placed.items()}
    assert set(by_name) == {p.name for p in sent.document.placed.values()}
    assert sent.mechanism is not None
    assert back.mechanism is not None
    was, now = sent.part_poses(sent.mechanism.start), back.part_poses(back.mechanism.start)
    for i, placed in sent.document.placed.items():
        j = by_name[placed.name]
        (a,), (b,) = sent.solids[i].bodies.values(), back.solids[j].bodies.values()
        assert b.volume == pytest.approx(a.volume, rel=1e-9)
        np.testing.assert_allclose(b.centroid, a.centroid, atol=1e-9)
        np.testing.assert_allclose(b.inertia, a.inertia, rtol=1e-6, atol=1e-18)
        assert len(b.faces) == len(a.faces)
        assert area(b) == pytest.approx(area(a), rel=1e-4)  # of triangles within 10 micrometres
        np.testing.assert_allclose(now[j][:3], was[i][:3], atol=1e-8)
        assert abs(now[j][3:] @ was[i][3:]) == pytest.approx(1, abs=1e-12)
    design = next(p for p in back.document.parts.values() if p.name.startswith("Bracket"))
    assert design.colour == "#3366cc"
    axes = {d for d, at in back.mechanism.datums[by_name["Lug"]].items() if at.kind == "axis" and at.radius}
    assert {round(back.mechanism.datums[by_name["Lug"]][d].radius * 2e3, 6) for d in axes} == {6.0, 10.0}


def test_fifty_solids_are_read_within_twenty_seconds(evaluator: Evaluator) -> None:
    draft = Draft("Fifty")
    for k in range(50):
        steps = bracket().steps
        draft.own_part(f"Bracket {k}", "steel", {**steps, "eye": Hole(name="Eye", plane="foot.end", diameter=f"{2 + k / 50} mm", through=True, at=AtPoints())}, x=f"{80 * k} mm")  # fmt: skip
    data = file_of(evaluator, draft, "fifty.step")
    begun = time.perf_counter()
    document = imported_document("fifty.step", data, evaluator.context)
    taken = time.perf_counter() - begun
    print(f"50 solids, {len(data) / 1e6:.1f} MB: {taken:.1f} s")
    assert len(document.parts) == 50
    assert taken < 20


def bore_of(evaluator: Evaluator, document: Document, placed: str, radius: float) -> str:
    """The datum of a placed part that is an axis of so large a bore, m."""
    result = evaluator.evaluate(document)
    assert result.mechanism is not None
    found = result.mechanism.datums[placed]
    return next(
        d for d, at in found.items() if at.kind == "axis" and at.side == "bore" and abs(at.radius - radius) < 1e-5
    )


def joined(evaluator: Evaluator, name: str, unit: str = "") -> tuple[Document, str]:
    """A lug out of a file of that name on a driven pin, with the play of pin and bore asked for; and the bore's datum."""
    document = imported_document(name, file_of(evaluator, plate(), name), evaluator.context, unit)
    lug = next(iter(document.placed))
    bore = bore_of(evaluator, document, lug, 5e-3)
    draft = Draft("Joined", document)
    pin = draft.part("Peg", "steel", Pin(diameter="9.9 mm", length="20 mm"))
    joint = draft.revolute("Peg in lug", Handle(lug)[bore], pin["axis"])
    draft.turn("Motor", joint, "60 rpm")
    draft.require(Clearance(name="Play", a=Of(placed=lug), b=Of(placed=str(pin)), at_least="0.04 mm"))
    return draft.document, bore


def test_a_step_part_is_joined_by_its_bore(evaluator: Evaluator) -> None:
    document, _ = joined(evaluator, "lug.step")
    (verdict,) = evaluator.evaluate(document).verdicts.values()
    assert verdict.holds
    assert verdict.value == pytest.approx(0.05e-3, abs=1e-9)  # faces are exact: half of 10 less 9.9


def test_a_part_of_triangles_is_taken_for_what_it_is(evaluator: Evaluator) -> None:
    """Its bore is found; its play is known no better than its triangles are round."""
    document, _ = joined(evaluator, "lug.stl", "mm")
    result = evaluator.evaluate(document)
    (verdict,) = result.verdicts.values()
    assert verdict.value == pytest.approx(0.05e-3, abs=verdict.error + 1e-9)
    lug = next(iter(document.placed))
    part = document.placed[lug].part
    (body,) = result.solids[lug].bodies.values()
    (exact,) = evaluator.evaluate(plate().document).solids["lug"].bodies.values()
    assert body.volume == pytest.approx(exact.volume, rel=1e-3)
    np.testing.assert_allclose(body.inertia, exact.inertia, rtol=2e-3, atol=1e-13)
    assert sorted(f.kind for f in body.faces) == sorted(f.kind for f in exact.faces)
    step = parse({"kind": "add_step", "part": part, "step": {"kind": "hole", "name": "Late", "plane": "xy"}})
    failing = evaluator.evaluate(accept(document, step))
    assert any("triangles" in p.words and "Late" in p.words for p in failing.problems)


@pytest.mark.parametrize("sides", [12, 24, 96])
def test_a_coarse_bore_is_not_believed_round(evaluator: Evaluator, sides: int) -> None:
    """A ring of so few sides: its corners lie on the circle, its sides cut in. Never more is promised than the polygon leaves,
    which shapely tells."""
    ring = trimesh.creation.annulus(5, 15, 8, sections=sides)
    document = imported_document("ring.stl", trimesh.exchange.stl.export_stl(ring), evaluator.context, "mm")
    (part,) = document.placed
    bore = bore_of(evaluator, document, part, 5e-3)
    draft = Draft("Joined", document)
    pin = draft.part("Peg", "steel", Pin(diameter="9.9 mm", length="20 mm"))
    joint = draft.revolute("Peg in ring", Handle(part)[bore], pin["axis"], offset="-6 mm")
    draft.turn("Motor", joint, "60 rpm")
    draft.require(Clearance(name="Play", a=Of(placed=part), b=Of(placed=str(pin)), at_least="0.01 mm"))
    draft.require(NoInterference(name="Apart"))
    result = evaluator.evaluate(draft.document)
    corners = [(5 * np.cos(t), 5 * np.sin(t)) for t in 2 * np.pi * np.arange(sides) / sides]
    left = shapely.Polygon(corners).exterior.distance(shapely.Point(0, 0)) - 4.95  # mm; less than nothing: it overlaps
    (found,) = (f for f in result.findings if {f.a, f.b} == {f"{part}/part", f"{pin}/pin"})
    if left > 0:
        assert abs(found.distance * 1e3 - left) <= found.error * 1e3 + 1e-6
    if left < 0.01:
        assert result.verdicts["play"].holds is not True
    if left < 0:
        assert result.verdicts["apart"].holds is not True
    if sides == 96:
        assert result.verdicts["play"].holds
        assert result.verdicts["apart"].holds


def test_triangles_weigh_as_trimesh_has_them() -> None:
    from uhrwerk.core.solids.triangles import mass_sums

    for mesh in (trimesh.creation.icosphere(2), trimesh.creation.annulus(1, 2, 3), trimesh.creation.box((1, 2, 3))):
        mesh.apply_transform(trimesh.transformations.rotation_matrix(0.7, [1, 2, 3]))
        mesh.apply_translation([5, -3, 2])
        volume, centre, inertia = mass_sums(np.asarray(mesh.vertices), np.asarray(mesh.faces))
        assert volume == pytest.approx(mesh.volume, rel=1e-12)
        np.testing.assert_allclose(centre, mesh.center_mass, atol=1e-10)
        np.testing.assert_allclose(inertia, mesh.moment_inertia, rtol=1e-9, atol=1e-9)


def test_a_format_without_unit_asks_for_it(evaluator: Evaluator) -> None:
    data = file_of(evaluator, plate(), "lug.stl")
    with pytest.raises(ValidationFailed, match=r"unit: lug\.stl does not say its unit; its largest size is 60"):
        imported_document("lug.stl", data, evaluator.context)
    inches = evaluator.evaluate(imported_document("lug.stl", data, evaluator.context, "in"))
    small = evaluator.evaluate(imported_document("lug.stl", data, evaluator.context, "mm"))
    (a,), (b,) = inches.solids.values(), small.solids.values()
    assert a.volume / b.volume == pytest.approx(25.4**3, rel=1e-6)
    with pytest.raises(ValidationFailed, match="'furlong' is not a unit"):
        imported_document("lug.stl", data, evaluator.context, "furlong")


def test_3mf_with_units_components_and_places(evaluator: Evaluator, tmp_path: Path) -> None:
    """Written by lib3mf: inches, a component within a component, each moved."""
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.Inch)
    box = trimesh.creation.box((1, 2, 3))
    mesh = model.AddMeshObject()
    mesh.SetName("Brick")
    positions, faces = [], []
    for v in box.vertices:
        p = lib3mf.Position()
        p.Coordinates[:] = list(v)
        positions.append(p)
    for f in box.faces:
        t = lib3mf.Triangle()
        t.Indices[:] = [int(i) for i in f]
        faces.append(t)
    mesh.SetGeometry(positions, faces)
    pair = model.AddComponentsObject()
    for k in range(2):
        move = wrapper.GetTranslationTransform(4.0 * k, 0, 0)
        pair.AddComponent(mesh, move)
    model.AddBuildItem(pair, wrapper.GetTranslationTransform(0, 5, 0))
    model.QueryWriter("3mf").WriteToFile(str(tmp_path / "bricks.3mf"))
    document = load(tmp_path / "bricks.3mf")
    result = evaluator.evaluate(document)
    assert len(document.parts) == 1
    assert sorted(s.volume for s in result.solids.values()) == pytest.approx([6 * 0.0254**3] * 2, rel=1e-6)
    assert result.mechanism is not None
    at = result.part_poses(result.mechanism.start)
    centres = sorted(tuple(np.round(at[i][:3] / 0.0254, 6)) for i in document.placed)
    assert centres == [(0, 5, 0), (4, 5, 0)]


def drawing() -> bytes:
    """A plate with round ends from loose lines and arcs, two round holes, an island in a window, and what is no outline."""
    d = ezdxf.new("R2010", units=4)
    m = d.modelspace()
    m.add_line((0, 0), (60, 0))
    m.add_line((0, 40), (60, 40))
    m.add_arc((60, 20), 20, -90, 90)
    m.add_arc((0, 20), 20, 90, 270)
    m.add_circle((0, 20), 8)
    m.add_circle((60, 20), 6)
    m.add_lwpolyline([(20, 10), (40, 10), (40, 30), (20, 30)], close=True)
    m.add_lwpolyline([(25, 15, 1), (35, 15, 1)], format="xyb", close=True)
    m.add_text("Plate 4")
    m.add_line((100, 0), (120, 0))
    out = io.StringIO()
    d.write(out)
    return out.getvalue().encode()


def test_closed_lines_of_a_drawing_become_plates(evaluator: Evaluator) -> None:
    document = imported_document("plate.dxf", drawing(), evaluator.context)
    assert document.note == "left out: 1 TEXT, 1 lines that do not close"
    result = evaluator.evaluate(document)
    assert not result.problems
    outer = (
        shapely.box(0, 0, 60, 40)
        .union(shapely.Point(0, 20).buffer(20, 4096))
        .union(shapely.Point(60, 20).buffer(20, 4096))
    )
    area = outer.area - np.pi * (64 + 36) - 400
    volumes = sorted(s.volume * 1e9 for s in result.solids.values())
    assert volumes == pytest.approx([5 * 25 * np.pi, 5 * area], rel=1e-6)


def test_the_outline_of_a_part_goes_out_and_comes_back(evaluator: Evaluator) -> None:
    result = evaluator.evaluate(imported_document("plate.dxf", drawing(), evaluator.context))
    data = written("outline.dxf", result, Chosen("plate"))[0]
    audit = ezdxf.recover.read(io.BytesIO(data))[1]
    assert not audit.has_errors
    assert not audit.has_fixes
    (again,) = evaluator.evaluate(imported_document("outline.dxf", data, evaluator.context)).solids.values()
    assert again.volume == pytest.approx(result.solids["plate"].volume, rel=1e-9)
    svg = written("outline.svg", result, Chosen("plate"))[0].decode()
    assert svg.count("A") == 2 + 2 * 2  # two round ends, two holes of two halves
    assert 'width="104.000' in svg
    assert 'height="44.000' in svg
    with pytest.raises(ValidationFailed, match="an outline is that of one part: choose it"):
        written("outline.dxf", result)
    with pytest.raises(ValidationFailed, match="there is no placed part 'gone'"):
        written("outline.svg", result, Chosen("gone"))


def test_one_part_alone_or_all_at_a_moment(evaluator: Evaluator, tucked: Evaluation) -> None:
    """A crank's STEP file holds it in its own frame; at a moment every part stands where the motion has it."""
    alone = evaluator.evaluate(
        imported_document("crank.step", written("crank.step", tucked, Chosen("coupler"))[0], evaluator.context)
    )
    (body,), (own,) = (s.bodies.values() for s in (*alone.solids.values(), tucked.solids["coupler"]))
    np.testing.assert_allclose(body.centroid, own.centroid, atol=1e-9)
    assert tucked.motion is not None
    moment = float(tucked.motion.times[100])
    there = evaluator.evaluate(
        imported_document("all.step", written("all.step", tucked, Chosen(time=moment))[0], evaluator.context)
    )
    assert there.mechanism is not None
    at, wanted = there.part_poses(there.mechanism.start), tucked.part_poses(tucked.motion.pose[100])
    names = {p.name: i for i, p in there.document.placed.items()}
    for i, placed in tucked.document.placed.items():
        name = placed.name if len(tucked.solids[i].bodies) == 1 else f"{placed.name} 1"  # one for each body
        np.testing.assert_allclose(at[names[name]][:3], wanted[i][:3], atol=1e-7)
    with pytest.raises(ValidationFailed, match="there is no moment 99 s"):
        written("all.step", tucked, Chosen(time=99.0))


@pytest.mark.parametrize("name", ["lug.step", "lug.stl"])
def test_a_replaced_file_keeps_the_joints_whose_faces_are_matched(evaluator: Evaluator, name: str) -> None:
    unit = "mm" if name.endswith("stl") else ""
    document, bore = joined(evaluator, name, unit)
    part = document.placed[next(iter(document.placed))].part
    larger = imported_document(name, file_of(evaluator, plate(bore="10.2 mm"), name), evaluator.context, unit)
    found = replaced(document, part, larger, evaluator.context)
    assert found.said == []
    after = accept(document, parse(found.command))
    assert after.joints == document.joints
    verdict = evaluator.evaluate(after).verdicts["play"]
    assert verdict.value == pytest.approx(0.15e-3, abs=max(verdict.error, 1e-9))
    gone = imported_document(
        name, file_of(evaluator, plate(x="21 mm"), name), evaluator.context, unit
    )  # the bore is elsewhere: another one
    lost = replaced(document, part, gone, evaluator.context)
    assert any("Peg in lug waits" in words and bore.removeprefix("element.") in words for words in lost.said)
    waiting = evaluator.evaluate(accept(document, parse(lost.command)))
    assert any("Peg in lug" in p.words or "joints.peg_in_lug" in p.path for p in waiting.problems)


def test_a_file_with_several_solids_needs_one_of_the_parts_name(evaluator: Evaluator, sent: Evaluation) -> None:
    document = imported_document("lug.step", file_of(evaluator, plate(), "lug.step"), evaluator.context)
    part = next(iter(document.parts))
    both = imported_document("lugs.step", written("lugs.step", sent)[0], evaluator.context)
    assert replaced(document, part, both, evaluator.context).said == []
    other = imported_document("lug.step", file_of(evaluator, plate(name="Stranger"), "lug.step"), evaluator.context)
    two = Draft("Two", other)
    two.do(parse({"kind": "set_value", "path": f"parts.{next(iter(other.parts))}.name", "value": "Another"}))
    assert replaced(document, part, two.document, evaluator.context).said == []  # its only one
    with pytest.raises(ValidationFailed, match="not an imported part"):
        replaced(plate().document, "lug", other, evaluator.context)


def test_an_archive_holds_the_mechanism_and_its_solids(evaluator: Evaluator, tmp_path: Path) -> None:
    """Read by somebody who has neither, it is checked as before; the document alone says what is missing."""
    document, _ = joined(evaluator, "lug.step")
    before = evaluator.evaluate(document)
    export(before, tmp_path / "joined.zip")
    stranger = Evaluator(tmp_path / "elsewhere")
    try:
        bare = stranger.evaluate(read(write(document)))
        assert any("import the file again" in p.words for p in bare.problems)
        whole = stranger.evaluate(load(tmp_path / "joined.zip"))
        assert whole.verdicts["play"].value == before.verdicts["play"].value
    finally:
        stranger.close()
