"""Drawings of parts: what is seen against rays through the triangles, what dimensions say against the part, and their files read
back by other libraries."""

from __future__ import annotations

import io
import re
import time
from typing import Any

import ezdxf
import manifold3d
import numpy as np
import pytest
from lxml import etree
from pypdf import PdfReader
from shapely import LineString, Polygon, union_all
from shapely.affinity import scale

from tests.parts import bracket, clevis, hinge_leaf, lever, pulley, rubber_star, tapered_spigot, tray
from tests.reference.test_line_drawing import hidden
from uhrwerk import Bore, Draft, Evaluator, FramePlate, LinkBar, Pin, SlottedLever
from uhrwerk.cli import main
from uhrwerk.core.drafting.export import assembly_drawing, drawing_of, sheet_file
from uhrwerk.core.drafting.part_sheet import ABOVE, CORNER, FRONT, hatching, section_of
from uhrwerk.core.drafting.sheet import Linear, Sheet
from uhrwerk.core.drafting.view import points_of, view_of
from uhrwerk.core.elements import Element
from uhrwerk.core.outlines import Rectangle
from uhrwerk.core.part import part_datums
from uhrwerk.core.solids.solid import outlines
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.steps import Extrude, Hole
from uhrwerk.demo import MODULES, shipped

OWN = {"bracket": bracket, "clevis": clevis, "leaf": hinge_leaf, "lever": lever, "pulley": pulley, "star": rubber_star, "spigot": tapered_spigot, "tray": tray}  # fmt: skip
ELEMENTS: dict[str, Element] = {
    "plate": FramePlate(),
    "bar": LinkBar(),
    "pin": Pin(chamfer="0.5 mm", diameter="40 mm"),
    "slotted": SlottedLever(),
}


def one_part(kind: str) -> tuple[Draft, str]:
    draft = Draft("Sample")
    if kind in OWN:
        return draft, draft.own_part(kind, "steel", dict(OWN[kind]().steps))
    return draft, draft.part(kind, "steel", ELEMENTS[kind])


def sheet_of(evaluator: Evaluator, kind: str, **more: Any) -> tuple[Sheet, Evaluation, str]:
    draft, part = one_part(kind)
    e = evaluator.evaluate(draft.document)
    return drawing_of(e, part, **more), e, part


@pytest.mark.parametrize("kind", [*OWN, "bar", "pin", "plate", "slotted"])
def test_as_much_is_visible_as_rays_say(evaluator: Evaluator, kind: str) -> None:
    """The whole length of visible lines, seen from a corner where no two edges lie over one another, against edges of the triangles
    from whose points rays reach the eye."""
    draft, part = one_part(kind)
    e = evaluator.evaluate(draft.document)
    right, toward = CORNER
    recipe = part_datums.recipe(e.document, part)[0]
    view = view_of(e.context.kernel_pool.call("hidden_lines", recipe, [CORNER])[0])
    drawn_length = sum(float(np.linalg.norm(np.diff(points_of(c, 0.01), axis=0), axis=1).sum()) for c in view.visible)
    t = np.array(toward) / np.linalg.norm(toward)
    r = np.array(right) - t * (np.array(right) @ t)
    r /= np.linalg.norm(r)
    bodies = list(e.solids[part].bodies.values())
    edges = np.concatenate([outlines(b.vertices, b.triangles, t) for b in bodies])
    corners = np.concatenate([b.vertices[b.triangles] for b in bodies])
    size = float(np.ptp(corners.reshape(-1, 3), axis=0).max())
    length = np.linalg.norm(np.diff(edges, axis=1)[:, 0] @ np.stack([r, np.cross(t, r)]).T, axis=1)
    count = np.maximum(1, np.ceil(length / size * 200)).astype(int)  # looks along each edge
    of = np.repeat(np.arange(len(edges)), count)
    s = (np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count) + 0.5) / count[of]
    points = edges[of, 0] + s[:, None] * (edges[of, 1] - edges[of, 0])
    seen = float(((length / count)[of] * ~hidden(points, t, corners, 1e-3 * size)).sum())

    assert drawn_length == pytest.approx(seen, rel=0.005), kind


def test_the_sizes_of_a_bracket_are_on_its_drawing(evaluator: Evaluator) -> None:
    """Those by which it is made (tests/parts.py), and each once."""
    sheet, _, _ = sheet_of(evaluator, "bracket")
    said = sorted(d.text for d in sheet.dimensions)
    assert {"60", "40", "35", "5", "8", "32", "26", "50", "4\u00d7 \u23004.5", "2\u00d7 R3", "R4"} <= set(said)
    assert len(said) == len(set(said))


@pytest.mark.parametrize("first_angle", [True, False])
@pytest.mark.parametrize("kind", [*OWN, *ELEMENTS])
def test_a_dimension_measures_what_it_says(evaluator: Evaluator, kind: str, first_angle: bool) -> None:
    sheet, _, _ = sheet_of(evaluator, kind, first_angle=first_angle)
    assert sheet.dimensions
    for d in sheet.dimensions:
        if isinstance(d, Linear):
            k = 1 if d.upright else 0
            assert abs(d.b[k] - d.a[k]) / sheet.scale == pytest.approx(d.value, abs=1e-9)
        else:
            assert (2 if d.diameter else 1) * d.radius / sheet.scale == pytest.approx(d.value, abs=1e-9)
    overall = {round(d.value, 6) for d in sheet.dimensions if isinstance(d, Linear)}
    assert len(overall) >= 2


def overlapping(sheet: Sheet) -> list[tuple[str, str]]:
    boxes = [(label.text, label.box()) for label in sheet.texts() if label.text]
    return [
        (a, b)
        for k, (a, p) in enumerate(boxes)
        for b, q in boxes[k + 1 :]
        if p[0] < q[2] and q[0] < p[2] and p[1] < q[3] and q[1] < p[3]
    ]


def beyond_frame(sheet: Sheet) -> list[tuple[float, float]]:
    """Points of lines that reach over the frame, which is 20 mm from the left and 10 mm from the other edges (ISO 5457)."""
    width, height = sheet.size
    points = [p for s in sheet.strokes for p in points_of(s.curve)]
    return [(x, y) for x, y in points if not (20 - 1e-6 < x < width - 10 + 1e-6 and 10 - 1e-6 < y < height - 10 + 1e-6)]


@pytest.mark.parametrize("kind", [*OWN, *ELEMENTS])
def test_no_two_texts_overlap(evaluator: Evaluator, kind: str) -> None:
    for first_angle in (True, False):
        sheet, _, _ = sheet_of(evaluator, kind, first_angle=first_angle)
        assert overlapping(sheet) == []
        assert beyond_frame(sheet) == []
        width, height = sheet.size
        for label in sheet.texts():
            x0, y0, x1, y1 = label.box()
            assert (x0 > 20 and y0 > 10 and x1 < width - 10 and y1 < height - 10) or not label.text, label


@pytest.mark.parametrize("module", MODULES)
def test_every_part_of_the_demo_is_drawn_without_overlaps(evaluator: Evaluator, module: str) -> None:
    e = evaluator.evaluate(shipped(module))
    seen = set()
    for i, placed in e.document.placed.items():
        if placed.part in seen or e.document.parts[placed.part].element.kind in SLOW:
            continue
        seen.add(placed.part)
        sheet = drawing_of(e, i)
        assert overlapping(sheet) == [], i
        assert beyond_frame(sheet) == [], i
        assert len(sheet.dimensions) >= 2, i


@pytest.mark.parametrize("first_angle", [True, False])
def test_long_bars_stay_within_the_frame(evaluator: Evaluator, first_angle: bool) -> None:
    """Of every length there is one that only just fits: none may reach over the frame."""
    for length in range(60, 200, 7):
        draft = Draft("Bar")
        bar = LinkBar(distance=f"{length} mm", second_distance="44 mm", thickness="3 mm")
        part = draft.part("Bar", "steel", bar)
        sheet = drawing_of(evaluator.evaluate(draft.document), part, first_angle=first_angle)
        assert beyond_frame(sheet) == [], length
        assert overlapping(sheet) == [], length


#: wheels of many teeth: the kernel takes ten seconds and more for what is hidden
SLOW = {"spur_gear", "ring_gear", "rack", "sprocket", "toothed_pulley"}


def test_a_mechanism_in_inches_is_drawn_in_inches(evaluator: Evaluator) -> None:
    """Texts are the stated numbers; what a DXF's dimensions measure, by ezdxf, is inches too; paper and scales stay metric (ISO 5457)."""
    draft = Draft("Inches")
    draft.set("units.length", "in")
    steps = {
        "body": Extrude(name="Body", outline=Rectangle(length="2.125 in", width="1.25 in"), length="0.1875 in"),
        "bore": Hole(name="Bore", plane="body.end", diameter="0.3125 in"),
    }
    part = draft.own_part("Plate", "steel", steps)
    e = evaluator.evaluate(draft.document)
    for sheet in (drawing_of(e, part), assembly_drawing(e)):
        texts = {t.text for t in sheet.texts()}
        assert {"2.125", "1.25", "0.1875"} <= texts
        assert any("inches" in t for t in texts)
        doc = ezdxf.read(io.StringIO(sheet_file("a.dxf", sheet).decode("utf-8")))
        assert not doc.audit().errors
        for entity, d in zip(doc.modelspace().query("DIMENSION"), sheet.dimensions, strict=True):
            factor = entity.override().get("dimlfac", 1.0)
            assert entity.get_measurement() * factor == pytest.approx(d.value / 25.4, abs=1e-9)
            assert entity.override().get("dimdec") == 4
    assert "\u23000.3125" in {t.text for t in drawing_of(e, part).texts()}


def test_a_dxf_passes_the_audit_and_its_dimensions_read_back(evaluator: Evaluator) -> None:
    for kind in ("bracket", "lever", "pin"):
        sheet, _, _ = sheet_of(evaluator, kind)
        doc = ezdxf.read(io.StringIO(sheet_file("a.dxf", sheet).decode("utf-8")))
        auditor = doc.audit()
        assert not auditor.errors, auditor.errors
        assert not auditor.fixes, auditor.fixes
        found = list(doc.modelspace().query("DIMENSION"))
        assert len(found) == len(sheet.dimensions)
        for entity, d in zip(found, sheet.dimensions, strict=True):
            factor = entity.override().get("dimlfac", 1.0)
            assert entity.get_measurement() * factor == pytest.approx(d.value, abs=1e-9)
        assert {e.dxf.layer for e in doc.modelspace()} >= {"visible", "centre", "dimension", "frame", "text"} - (
            {"centre"} if kind == "none" else set()
        )


def test_a_pdf_is_one_page_of_its_size_with_its_fonts(evaluator: Evaluator) -> None:
    sheet, _, _ = sheet_of(evaluator, "bracket")
    reader = PdfReader(io.BytesIO(sheet_file("a.pdf", sheet)))
    (page,) = reader.pages
    assert [float(v) / 72 * 25.4 for v in page.mediabox[2:]] == pytest.approx(sheet.size, abs=0.01)
    for font in page["/Resources"]["/Font"].values():
        assert "/FontFile2" in font.get_object()["/FontDescriptor"].get_object()
    words = re.sub(r"\s", "", page.extract_text())
    for d in sheet.dimensions:
        assert d.text.replace(" ", "") in words
    for text in ("bracket", "Steel", "136.4g", "1:1" if sheet.scale == 1 else "2:1", "Sample/bracket"):
        assert text in words, text


def test_a_copy_is_drawn_and_a_mirrored_part_behind_its_plane(evaluator: Evaluator) -> None:
    """The sizes of a copy are those of its original; what lies right in one lies left in its image."""
    d = Draft("Copies")
    plate = FramePlate(length="60 mm", width="40 mm", bores={"b": Bore(x="12 mm", y="20 mm", diameter="8 mm")})
    one = d.part("Plate", "steel", plate)
    hub = d.part("Hub", "steel", Pin(diameter="6 mm", length="20 mm"), x="200 mm")
    d.ring("Round", [one], hub["axis"], "3")
    d.mirror("Image", [one], hub["yz_plane"])
    e = evaluator.evaluate(d.document)
    sheets = {i: drawing_of(e, i) for i in e.document.placed if e.document.placed[i].part == "plate"}
    assert len(sheets) == 4
    texts = {i: sorted(d.text for d in sheet.dimensions) for i, sheet in sheets.items()}
    image = next(i for i in texts if e.document.placed[i].mirrored)
    assert all(t == texts["plate"] for i, t in texts.items() if i != image), texts
    assert "12" in texts["plate"]
    assert texts[image] == sorted("48" if t == "12" else t for t in texts["plate"])


@pytest.mark.parametrize("name", ["<script>x</script>", "</title>&amp;", "%%c%%d\\P{\\C1;x}", "=1+1"])
def test_hostile_names_are_inert(evaluator: Evaluator, name: str) -> None:
    draft = Draft(name)
    part = draft.part(name, "steel", FramePlate())
    e = evaluator.evaluate(draft.document)
    sheet = drawing_of(e, part, revision=name, date=name)
    svg = etree.fromstring(sheet_file("a.svg", sheet))
    assert {etree.QName(x).localname for x in svg.iter()} <= {"svg", "title", "rect", "path", "g", "text"}
    assert any((x.text or "").startswith(name[:6]) for x in svg.iter("{*}text"))
    doc = ezdxf.read(io.StringIO(sheet_file("a.dxf", sheet).decode("utf-8")))
    assert not doc.audit().errors
    assert len(PdfReader(io.BytesIO(sheet_file("a.pdf", sheet))).pages) == 1


def test_what_cannot_be_drawn_says_why(
    evaluator: Evaluator, tmp_path: Any, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    from uhrwerk.core.document import write
    from uhrwerk.core.field import ValidationFailed

    monkeypatch.setenv("UHRWERK_DATA", str(tmp_path / "data"))
    draft, part = one_part("plate")
    e = evaluator.evaluate(draft.document)
    with pytest.raises(ValidationFailed, match="there is no placed part 'nobody'; known are plate"):
        drawing_of(e, "nobody")
    with pytest.raises(ValidationFailed, match=r"a drawing is written as .pdf, .svg, .dxf"):
        sheet_file("plate.doc", drawing_of(e, part))
    file = tmp_path / "plate.json"
    file.write_text(write(draft.document), encoding="utf-8")
    assert (
        main(["drawing", str(file), "--part", part, "--to", str(tmp_path / "plate.dxf"), "--projection", "third"]) == 0
    )
    assert (tmp_path / "plate.dxf").stat().st_size > 5000
    assert main(["drawing", str(file), "--part", "none", "--to", str(tmp_path / "plate.dxf")]) == 2
    assert "there is no placed part 'none'" in capsys.readouterr().err


def test_a_section_shows_what_a_cut_through_the_triangles_does(evaluator: Evaluator) -> None:
    """The hatched area against that of the triangles cut by manifold3d, and hatching within it only."""
    for kind in ("lever", "bracket", "bar", "leaf", "pulley"):
        draft, part = one_part(kind)
        e = evaluator.evaluate(draft.document)
        recipe = part_datums.recipe(e.document, part)[0]
        call = e.context.kernel_pool.call
        front, above = (view_of(v) for v in call("hidden_lines", recipe, [FRONT, ABOVE]))
        at = section_of(front, above)
        assert at is not None, kind
        view = view_of(call("hidden_lines", recipe, [(*ABOVE, at)])[0])
        area = union_all([Polygon(loops[0], loops[1:]) for loops in view.cut])
        wanted = 0.0
        for body in e.solids[part].bodies.values():
            turned = body.vertices[:, [0, 2, 1]] * [1e3, -1e3, 1e3]  # y up
            mesh = manifold3d.Mesh(turned.astype(np.float32), body.triangles.astype(np.uint32))
            wanted += manifold3d.Manifold(mesh).slice(at * 1e3).area()
        assert area.area * 1e6 == pytest.approx(wanted, rel=1e-3), kind
        lines = [LineString([c[1:3], c[3:5]]) for loops in view.cut for c in hatching(loops, 1e3, 0.0, 0.0)]
        room = Polygon() if area.is_empty else scale(area, 1e3, 1e3, origin=(0, 0)).buffer(1e-6)
        assert lines
        assert all(room.contains(line) for line in lines)


def test_the_drawing_of_a_bracket_says_where_it_is_cut(evaluator: Evaluator) -> None:
    sheet, _, _ = sheet_of(evaluator, "bracket")
    texts = [label.text for label in sheet.labels]
    assert texts.count("A") == 2
    assert "A\u2013A" in texts
    assert any(s.layer == "thin" and abs(abs(s.curve[3] - s.curve[1]) - abs(s.curve[4] - s.curve[2])) < 1e-9 and s.curve[3] != s.curve[1] for s in sheet.strokes)  # fmt: skip


def test_sizes_that_are_left_out_are_counted_on_the_sheet(evaluator: Evaluator) -> None:
    """Nine holes at nine places along both sides: seven sizes a side are drawn, the rest is said."""
    draft = Draft("Plate")
    spots = {f"s{k}": {"x": f"{-40 + 9 * k} mm", "y": f"{-20 + 4.5 * k} mm"} for k in range(9)}
    steps = {
        "plate": Extrude(name="Plate", outline=Rectangle(length="100 mm", width="60 mm"), length="5 mm"),
        "holes": Hole.model_validate({"name": "Holes", "plane": "plate.end", "diameter": "4 mm", "at": {"kind": "points", "spots": spots}}),
    }  # fmt: skip
    part = draft.own_part("Plate", "steel", steps)
    sheet = drawing_of(evaluator.evaluate(draft.document), part)
    # of nine places and the extent, three along each side
    assert any(label.text.startswith("6 more sizes are not on this sheet") for label in sheet.labels)
    assert overlapping(sheet) == []


@pytest.mark.parametrize(("module", "part", "tip"), [("foil_tucker", "wheel_with_crank_pin", 84), ("planetary_sample", "planet", 30), ("foil_tucker", "motor_pinion", 30)])  # fmt: skip
def test_a_gear_has_its_circles_its_width_and_its_data(
    evaluator: Evaluator, module: str, part: str, tip: float
) -> None:
    """Tip diameter: module times teeth and two (ISO 21771-1, 4.2 and ISO 53 profile A); no edge of a single tooth is dimensioned."""
    e = evaluator.evaluate(shipped(module))
    began = time.monotonic()
    sheet = drawing_of(e, part)
    assert time.monotonic() - began < 30  # 1 to 4 s alone
    rounds = {d.text: d.value for d in sheet.dimensions if not isinstance(d, Linear)}
    assert rounds[f"\u2300{tip}"] == pytest.approx(tip, abs=1e-9)
    element = e.document.parts[part].element
    widths = [d.value for d in sheet.dimensions if isinstance(d, Linear)]
    levels = [0.0, *widths]  # from one end of the part
    wide = float(element.width.split()[0])
    assert any(abs(a - b) == pytest.approx(wide, abs=1e-9) for a in levels for b in levels)
    assert len(widths) < 5
    texts = [t.text for t in sheet.labels]
    assert str(element.teeth) in texts
    assert "Number of teeth" in texts


def test_no_size_is_stated_that_is_known_by_samples_alone(evaluator: Evaluator) -> None:
    """How far the outline of a cam reaches: the note says that it is not stated, and no dimension does."""
    e = evaluator.evaluate(shipped("folder"))
    sheet = drawing_of(e, "cam")
    assert any("How far free curves reach" in t.text for t in sheet.labels)
    low, high = (f(v[:, :2].max() - v[:, :2].min() for v in [np.concatenate([b.vertices for b in e.solids["cam"].bodies.values()])]) for f in (min, max))  # fmt: skip
    assert not [d for d in sheet.dimensions if low * 1e3 - 0.5 < d.value < high * 1e3 + 0.5]
