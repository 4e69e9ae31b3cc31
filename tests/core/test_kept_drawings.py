"""Drawings that the document keeps: they follow the mechanism, and never apply a setting to a size that was not meant."""

from __future__ import annotations

import io
import re
from collections.abc import Callable
from math import hypot
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
from lxml import etree
from pypdf import PdfReader

from tests.reference.test_part_drawings import ELEMENTS, OWN, one_part
from uhrwerk import Block, Bore, Draft, FramePlate, write
from uhrwerk.cli import main
from uhrwerk.core.document import Document, ValidationFailed, validate
from uhrwerk.core.document.command import Remove, apply
from uhrwerk.core.document.drawing import Drawing, FaceTexture, OwnSize, SizeSetting
from uhrwerk.core.drafting.document_sheet import Issue, document_sheet, measured_sizes, spots
from uhrwerk.core.drafting.export import sheet_file
from uhrwerk.core.drafting.on_page import drawing_sheet, sizes_before
from uhrwerk.core.drafting.settings import Setting, applied, marks
from uhrwerk.core.drafting.sheet import Dimension, Linear, Round, Sheet, Sign, SizeId
from uhrwerk.core.evaluation.evaluator import Evaluator

HOLES = {"low": ("14 mm", "9.5 mm"), "far": ("61.25 mm", "9.5 mm"), "high": ("30 mm", "33 mm")}


def plate(mirrored: bool = False, **drawing: Any) -> Draft:
    """A plate of 80 by 50 by 6 mm with three holes, and a drawing of it."""
    draft = Draft("Plate")
    bores = {i: Bore(x=x, y=y, diameter="5 mm" if i == "high" else "8 mm") for i, (x, y) in HOLES.items()}
    draft.part("Plate", "steel", FramePlate(length="80 mm", width="50 mm", thickness="6 mm", bores=bores))
    draft.set("placed.plate.mirrored", mirrored)
    draft.draw(Drawing(name="Plate", part="plate", **drawing))
    return draft


def sheet_of(evaluator: Evaluator, document: Document, issue: Issue | None = None) -> Sheet:
    return document_sheet(evaluator.evaluate(document), document.drawings["plate"], issue)


def sizes(sheet: Sheet, key: str) -> Dimension:
    return next(d for d in (*sheet.dimensions, *sheet.hidden) if d.id and d.id.key == key)


def setting_of(d: Dimension, **change: Any) -> SizeSetting:
    assert d.id is not None
    return SizeSetting(
        view=d.id.view, kind=d.id.kind, place=d.id.place, among=d.id.among, value=f"{d.value:.9g} mm", **change
    )  # type: ignore[arg-type]


def keep(draft: Draft, **settings: SizeSetting) -> None:
    known = draft.document.drawings["plate"].sizes
    data = {i: s.model_dump() for i, s in (known | settings).items()}
    draft.set("drawings.plate.sizes", data)


def test_a_size_is_hidden_moved_and_says_more(evaluator: Evaluator) -> None:
    draft = plate()
    free = sheet_of(evaluator, draft.document)
    across, hole = sizes(free, "front_across_2"), sizes(free, "front_diameter_1")
    keep(draft, front_across_1=setting_of(sizes(free, "front_across_1"), hidden=True))
    keep(draft, front_across_2=setting_of(across, up="-7.5 mm", after="\u00b10.1"))
    keep(draft, front_diameter_1=setting_of(hole, right="4 mm", up="3 mm"))
    sheet = sheet_of(evaluator, draft.document)
    assert [d.id.key for d in sheet.hidden if d.id] == ["front_across_1"]
    assert {d.id.key for d in free.dimensions if d.id} - {d.id.key for d in sheet.dimensions if d.id} == {
        "front_across_1"
    }
    moved, led = sizes(sheet, "front_across_2"), sizes(sheet, "front_diameter_1")
    assert isinstance(moved, Linear)
    assert isinstance(across, Linear)
    assert moved.at == pytest.approx(across.at - 7.5)
    assert moved.text == f"{across.text} \u00b10.1"
    assert np.subtract(led.to, hole.to) == pytest.approx([4, 3])  # type: ignore[union-attr]
    # the leader of a circle still ends on it
    x, y = led.foot  # type: ignore[union-attr]
    assert hypot(x - led.centre[0], y - led.centre[1]) == pytest.approx(led.radius, abs=1e-9)  # type: ignore[union-attr]


def test_settings_follow_a_size_whose_number_changes(evaluator: Evaluator) -> None:
    draft = plate()
    free = sheet_of(evaluator, draft.document)
    hidden = sizes(free, "front_across_3")
    assert hidden.value == pytest.approx(61.25)
    keep(draft, front_across_3=setting_of(hidden, hidden=True))
    draft.set("parts.plate.element.bores.far.x", "66 mm")
    sheet = sheet_of(evaluator, draft.document)
    assert [round(d.value, 6) for d in sheet.hidden] == [66]
    assert sheet.unclear == []


def test_a_setting_that_may_mean_two_sizes_is_not_applied(evaluator: Evaluator) -> None:
    """The second of four distances was hidden, 30 mm; now the first measures that, and the second 41 mm."""
    draft = plate()
    second = sizes(sheet_of(evaluator, draft.document), "front_across_2")
    assert second.value == pytest.approx(30)
    keep(draft, front_across_2=setting_of(second, hidden=True))
    draft.set("parts.plate.element.bores.low.x", "30 mm")
    draft.set("parts.plate.element.bores.high.x", "41 mm")
    sheet = sheet_of(evaluator, draft.document)
    assert sheet.hidden == []
    assert sheet.unclear == ["front_across_2"]
    (told,) = drawing_sheet(evaluator.evaluate(draft.document), "plate", Issue()).unclear
    assert "30 mm" in told.words


def test_a_size_that_is_gone_is_told(evaluator: Evaluator) -> None:
    draft = plate(own_sizes={"pitch": OwnSize(view="front", kind="across", a="low", b="far")})
    free = sheet_of(evaluator, draft.document)
    small = sizes(free, "front_diameter_1")
    assert small.value == pytest.approx(5)
    keep(draft, front_diameter_1=setting_of(small, after="H7"))
    draft.do(Remove(path="parts.plate.element.bores.high"))
    draft.do(Remove(path="parts.plate.element.bores.far"))
    sheet = sheet_of(evaluator, draft.document)
    assert sheet.unclear == ["front_diameter_1", "own_pitch"]
    assert "H7" not in "".join(d.text for d in sheet.dimensions)
    assert {u.part for u in drawing_sheet(evaluator.evaluate(draft.document), "plate", Issue()).unclear} == {
        "sizes",
        "own_sizes",
    }


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("projection", ["first", "third"])
def test_own_sizes_measure_what_they_say(evaluator: Evaluator, mirrored: bool, projection: str) -> None:
    """Distances of holes and faces as they are stated, 1e-9 m; and lines that begin where the holes are drawn."""
    side = {"view": "beside", "kind": "upright"}
    own = {
        "pitch": OwnSize(view="front", kind="across", a="low", b="far"),
        "rise": OwnSize(view="front", kind="upright", a="far", b="high"),
        "edge": OwnSize(view="above", kind="across", a="high", b="far"),
        "thick": OwnSize(view="above", kind="upright", a="top", b="bottom"),
        "seen": OwnSize(a="low", b="high", **side),
    }
    draft = plate(mirrored, projection=projection, own_sizes=own)
    result = evaluator.evaluate(draft.document)
    sheet = document_sheet(result, draft.document.drawings["plate"])
    told = {k.removeprefix("own_"): v for k, v in measured_sizes(sheet).items() if k.startswith("own_")}
    assert told == pytest.approx({"pitch": 47.25, "rise": 23.5, "edge": 31.25, "thick": 6, "seen": 23.5}, abs=1e-6)
    k, x, y = sheet.views["front"]
    circles = {
        (round(d.centre[0], 6), round(d.centre[1], 6)) for d in sheet.dimensions if isinstance(d, Round) and d.diameter
    }
    here = {
        s.datum: (x + k * s.at[0], y + k * s.at[1]) for s in spots(result, draft.document.drawings["plate"])["front"]
    }
    assert {(round(here[i][0], 6), round(here[i][1], 6)) for i in HOLES} >= circles
    for d in sheet.dimensions:
        if isinstance(d, Linear) and d.id and d.id.own:  # on paper it is as long as it says
            i = int(d.upright)
            assert abs(d.b[i] - d.a[i]) == pytest.approx(d.value * sheet.scale, abs=1e-9)


@pytest.mark.parametrize("mirrored", [False, True])
def test_holes_in_a_table_are_where_they_are_stated(evaluator: Evaluator, mirrored: bool) -> None:
    """Places from the lower left corner of the plate, or of its image; a post is no hole. No other size tells them again, and no two texts
    overlap."""
    draft = plate(mirrored, hole_table=True)
    draft.set("parts.plate.element.posts.stop", {"x": "60 mm", "y": "35 mm", "diameter": "6 mm", "height": "10 mm"})
    sheet = sheet_of(evaluator, draft.document)
    texts = [t.text for t in sheet.labels]
    rows = {
        texts[i - 1].split("  ")[0]: (texts[i - 1].split("  ")[1], t) for i, t in enumerate(texts) if t.startswith("X ")
    }
    places = {i: (float(x.split()[0]), float(y.split()[0])) for i, (x, y) in HOLES.items()}
    if mirrored:
        places = {i: (80 - x, y) for i, (x, y) in places.items()}
    stated = sorted(("\u23005" if i == "high" else "\u23008", f"X {x:g}  Y {y:g}") for i, (x, y) in places.items())
    assert sorted(rows.values()) == stated
    assert sorted(rows) == ["A1", "A2", "B1"]
    assert {d.text for d in sheet.dimensions if isinstance(d, Round) and d.diameter} == {"\u23006"}
    assert all(round(d.value, 6) not in (14, 30, 61.25, 66, 50 - 9.5, 9.5, 33) for d in sheet.dimensions)
    boxes = [t.box() for t in sheet.texts()]
    for k, (x0, y0, x1, y1) in enumerate(boxes):
        for u0, v0, u1, v1 in boxes[:k]:
            assert x0 >= u1 or u0 >= x1 or y0 >= v1 or v0 >= y1


def test_what_changed_since_a_revision_is_marked(evaluator: Evaluator) -> None:
    draft = plate(own_sizes={"pitch": OwnSize(view="front", kind="across", a="low", b="far")})
    before = sizes_before(evaluator.evaluate(draft.document), draft.document.drawings["plate"])
    same = sheet_of(evaluator, draft.document, Issue("3", "", before, "revision 1"))
    assert not [t for t in same.labels if t.text == "3" and t.height < 2]
    draft.set("parts.plate.element.bores.far.x", "62 mm")
    sheet = sheet_of(evaluator, draft.document, Issue("3", "", before, "revision 1"))
    changed = {k for k, v in measured_sizes(sheet).items() if abs(before[k] - v) > 1e-9}
    assert changed == {"front_across_3", "own_pitch"}
    assert len([t for t in sheet.labels if t.text == "3" and t.height < 2]) == len(changed)
    assert any("something else than at revision 1" in t.text for t in sheet.labels)
    assert sizes_before(evaluator.evaluate(Draft("empty").document), draft.document.drawings["plate"]) == {}


@pytest.mark.parametrize("seed", range(40))
def test_random_changes_never_hide_another_size(seed: int) -> None:
    """A size is hidden among others; then some come, go or change. Hidden is at most one, and one that measures what it measured, or
    that stands in its place among as many with no other that measures it."""
    random = np.random.default_rng(seed)
    values = [float(v) for v in sorted(random.choice(60, 6, replace=False) + 1)]

    def row(numbers: list[float]) -> list[Dimension]:
        return [
            Linear((0, 0), (v, 0), -5, False, v, id=SizeId("front", "across", k + 1, len(numbers)))
            for k, v in enumerate(numbers)
        ]

    place = int(random.integers(len(values)))
    setting = Setting(SizeId("front", "across", place + 1, len(values)), values[place], hidden=True)
    after = sorted(
        {*random.choice(values, int(random.integers(2, 7)), replace=False), *random.integers(1, 60, 2) * 1.0}
    )
    shown, hidden, unclear = applied(row(after), {"k": setting})
    assert len(shown) + len(hidden) == len(after)
    assert bool(hidden) != bool(unclear)
    for d in hidden:
        assert d.id is not None
        in_place = (d.id.place, d.id.among) == (place + 1, len(values))
        assert d.value == values[place] or (in_place and values[place] not in after)
        if len(after) == len(values) and d.value == values[place]:
            assert in_place


def test_a_mark_stands_beside_its_text() -> None:
    d = Linear((0, 0), (30, 0), -10, False, 30.0, id=SizeId("front", "across", 1, 1))
    strokes, labels = marks([d], {}, "7")
    assert [t.text for t in labels] == ["7"]
    assert min(s.curve[1] for s in strokes) > d.label().box()[2]
    assert marks([d], {"front_across_1": 30.0}, "7") == ([], [])


@pytest.mark.parametrize(
    ("change", "field"),
    [
        (lambda d: d | {"part": None, "own_sizes": {"a": {"view": "front", "kind": "across", "a": "x", "b": "y"}}}, "own_sizes"),
        (lambda d: d | {"own_sizes": {"a": {"view": "front", "kind": "across", "a": "x", "b": "x"}}}, "own_sizes.a.b"),
        (lambda d: d | {"part": "nobody"}, "part"),
        (lambda d: d | {"part": None, "group": "nobody"}, "group"),
        (lambda d: d | {"projection": "second"}, "projection"),
    ],
)  # fmt: skip
def test_what_does_not_fit_is_refused_by_its_field(change: Callable[[Any], Any], field: str) -> None:
    data = plate().document.model_dump(mode="json")
    data["drawings"]["plate"] = change(data["drawings"]["plate"])
    with pytest.raises(ValidationFailed) as refused:
        validate(data)
    assert f"drawings.plate.{field}" in [path for path, _ in refused.value.faults]


def test_a_drawing_goes_with_its_part_and_is_written_and_read() -> None:
    draft = plate(note="ISO 2768-mK", own_sizes={"pitch": OwnSize(view="front", kind="across", a="low", b="far")})
    draft.draw(Drawing(name="Whole", exploded=True))
    assert validate(draft.document.model_dump(mode="json")) == draft.document
    assert list(apply(draft.document, Remove(path="placed.plate")).drawings) == ["whole"]


def test_a_kept_drawing_from_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    draft = plate(note="Deburred", own_sizes={"pitch": OwnSize(view="front", kind="across", a="low", b="far")})
    file, out = tmp_path / "x.json", tmp_path / "x.svg"
    file.write_text(write(draft.document), encoding="utf-8")
    assert main(["drawing", str(file), "--sheet", "plate", "--to", str(out)]) == 0
    text = out.read_text(encoding="utf-8")
    assert "Deburred" in text
    assert re.search(r">47\.25<", text)
    assert main(["drawing", str(file), "--sheet", "nothing", "--to", str(out)]) == 2
    assert "known are plate" in capsys.readouterr().err


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("kind", [*OWN, *ELEMENTS])
def test_faces_are_offered_where_their_edge_is_drawn(evaluator: Evaluator, kind: str, mirrored: bool) -> None:
    """Each flat face that is seen on its edge: the kernel drew a line there, in both projections."""
    draft, part = one_part(kind)
    draft.set(f"placed.{part}.mirrored", mirrored)
    e = evaluator.evaluate(draft.document)
    for projection in ("first", "third"):
        drawing = Drawing(name="x", part=str(part), projection=projection, section=False)
        sheet = document_sheet(e, drawing)
        lines = np.array(
            [s.curve[1:] for s in sheet.strokes if s.layer in ("visible", "hidden") and s.curve[0] == "line"]
        )
        looked = 0
        for view, own in spots(e, drawing).items():
            k, *origin = sheet.views[view]
            for spot in own:
                if (
                    "." in spot.datum
                    and "+" not in spot.datum
                    and e.mechanism.datums[str(part)][spot.datum].kind == "plane"
                ):
                    axis = int(spot.known == "upright")
                    at = origin[axis] + k * spot.at[axis]
                    assert np.abs(lines[:, [axis, axis + 2]] - at).max(axis=1).min() < 1e-6, (view, spot)
                    looked += 1
        assert looked or kind in ELEMENTS or kind in ("star", "spigot", "pulley")


def test_hostile_notes_and_texts_are_inert_in_every_file(evaluator: Evaluator) -> None:
    """Markup, formatting codes and control characters that a designer, or a file, states: they stand there as text."""
    hostile = '<script>alert(1)</script> %%c {\\H9;x} \\P =cmd|"/c calc"!A1 \u202e\x07'
    own = {"pitch": OwnSize(view="front", kind="across", a="low", b="far", after="<img src=x onerror=a()>")}
    draft = plate(note=hostile, own_sizes=own)
    sheet = sheet_of(evaluator, draft.document)
    svg = etree.fromstring(sheet_file("x.svg", sheet))
    assert {etree.QName(e).localname for e in svg.iter()} <= {"svg", "title", "rect", "path", "g", "text"}
    assert "<script>alert(1)</script>" in "".join(svg.itertext())
    drawing = ezdxf.read(io.StringIO(sheet_file("x.dxf", sheet).decode()))  # type: ignore[attr-defined]
    assert not drawing.audit().has_errors
    assert all("%%c {" not in t.dxf.text and "\n" not in t.dxf.text for t in drawing.modelspace().query("TEXT"))
    pdf = PdfReader(io.BytesIO(sheet_file("x.pdf", sheet)))
    assert len(pdf.pages) == 1
    assert "/JS" not in str(pdf.trailer["/Root"])
    assert "alert(1)" in pdf.pages[0].extract_text()


@pytest.mark.parametrize("hole_table", [False, True])
def test_a_long_note_is_wrapped_and_what_is_left_out_is_said(evaluator: Evaluator, hole_table: bool) -> None:
    sheet = sheet_of(evaluator, plate(note="Deburr all edges. " * 100, hole_table=hole_table).document)
    notes = [t for t in sheet.labels if "Deburr" in t.text or "more lines" in t.text]
    assert len(notes) == 12
    assert notes[0].text.endswith("more lines of notes are not on this sheet.")
    others = [t.box() for t in sheet.texts() if t not in notes]
    for x0, y0, x1, y1 in (t.box() for t in notes):
        assert 0 < x0 < x1 < sheet.size[0] - 10
        assert all(x0 >= u1 or u0 >= x1 or y0 >= v1 or v0 >= y1 for u0, v0, u1, v1 in others)


SIGNS = {
    "edge": FaceTexture(view="front", face="right", roughness="0.8", removal="required"),
    "under": FaceTexture(view="above", face="bottom", roughness="1.6", removal="prohibited"),
    "hole": FaceTexture(view="front", face="low", roughness="0.4"),
}


def lines_of(sign: Sign) -> list[tuple[float, ...]]:
    return [s.curve[1:] for s in sign.strokes if s.curve[0] == "line"]


@pytest.mark.parametrize("projection", ["first", "third"])
@pytest.mark.parametrize("mirrored", [False, True])
def test_signs_of_texture_point_at_their_faces(evaluator: Evaluator, projection: str, mirrored: bool) -> None:
    """A leader ends on the face: by the numbers that made the plate, whatever the view shows."""
    draft = plate(mirrored, texture="3.2", face_textures=SIGNS, projection=projection)
    sheet = sheet_of(evaluator, draft.document)
    assert sheet.unclear == []
    tips = {}
    for sign in sheet.signs:
        view = SIGNS[sign.key.removeprefix("texture_")].view
        k, x, y = sheet.views[view]
        *_, (a, b, *_) = lines_of(sign)  # a leg of the arrow begins at its tip
        tips[sign.key] = ((a - x) / k * 1e3, (b - y) / k * 1e3)
    side = -1 if mirrored else 1
    assert tips["texture_edge"][0] == pytest.approx(side * 80, abs=1e-9)
    assert 0 < tips["texture_edge"][1] < 50
    assert tips["texture_under"][1] == pytest.approx(6, abs=1e-9)  # its top lies at z = 0, down is towards the eye
    centre = (side * 14, 9.5)
    assert hypot(*np.subtract(tips["texture_hole"], centre)) == pytest.approx(4, abs=1e-9)
    assert [s.label.text for s in sheet.signs] == ["Ra 0.8", "Ra 1.6", "Ra 0.4"]
    assert "Ra 3.2" in {t.text for t in sheet.labels}


def test_signs_of_texture_cover_nothing_and_are_in_every_file(evaluator: Evaluator) -> None:
    draft = plate(texture="3.2", face_textures=SIGNS)
    sheet = sheet_of(evaluator, draft.document)
    views = [
        (x, y, x + k * w / 1e3, y + k * h / 1e3) for n, w, h in (("front", 80, 50),) for k, x, y in [sheet.views[n]]
    ]
    others = [t.box() for t in sheet.texts() if t not in [s.label for s in sheet.signs]]
    for sign in sheet.signs:
        a, b, c, d = sign.label.box()
        assert not any(a < r and p < c and b < s and q < d for p, q, r, s in (*others, *views))
    page = PdfReader(io.BytesIO(sheet_file("plate.pdf", sheet))).pages[0].extract_text()
    drawn = ezdxf.read(io.StringIO(sheet_file("plate.dxf", sheet).decode()))  # type: ignore[attr-defined]
    texts = {t.dxf.text for t in drawn.modelspace().query("TEXT")}
    svg = sheet_file("plate.svg", sheet).decode()
    for words in ("Ra 0.8", "Ra 1.6", "Ra 0.4", "Ra 3.2"):
        assert words in page
        assert words in texts
        assert words in svg


def test_the_sign_has_the_form_for_material_that_is_removed_or_not(evaluator: Evaluator) -> None:
    """ISO 1302, clause 4 (from memory): open where any way will do, a bar where material is removed, a circle where it is not."""
    sheet = sheet_of(evaluator, plate(face_textures=SIGNS).document)
    bars = {s.key: sum(line[1] == line[3] and line[0] < line[2] for line in lines_of(s)) for s in sheet.signs}
    circles = {s.key: sum(stroke.curve[0] == "arc" for stroke in s.strokes) for s in sheet.signs}
    assert bars == {"texture_edge": 2, "texture_under": 1, "texture_hole": 1}  # the reference line of a leader is one
    assert circles == {"texture_edge": 0, "texture_under": 1, "texture_hole": 0}


def test_a_sign_of_a_face_that_the_view_does_not_show_is_told(evaluator: Evaluator) -> None:
    unknown = FaceTexture(view="front", face="no_such_face", roughness="0.8")
    flat = FaceTexture(view="front", face="top", roughness="0.8")  # seen from above it is no edge
    draft = plate(face_textures={"unknown": unknown, "flat": flat})
    e = evaluator.evaluate(draft.document)
    shown = drawing_sheet(e, "plate", Issue())
    assert [(u.part, u.key) for u in shown.unclear] == [("face_textures", "unknown"), ("face_textures", "flat")]
    assert all(u.words.startswith("front: Ra 0.8 of ") for u in shown.unclear)
    assert {f.datum for f in shown.faces if f.view == "front"} >= {
        "left",
        "right",
        "front",
        "back",
        "low",
        "far",
        "high",
    }
    assert not any(f.datum.endswith("_plane") for f in shown.faces)


def test_a_sign_moves_by_what_is_stated(evaluator: Evaluator) -> None:
    moved = SIGNS["edge"].model_copy(update={"right": "4 mm", "up": "-3 mm"})
    before, after = (
        sheet_of(evaluator, plate(face_textures={"edge": s}).document).signs[0].label for s in (SIGNS["edge"], moved)
    )
    assert (after.x - before.x, after.y - before.y) == pytest.approx((4, -3))


def test_textures_are_those_of_a_part() -> None:
    drawing = Drawing(name="Whole", face_textures=SIGNS)
    assert [f for f, _ in drawing.faults(None)] == ["face_textures"]


@pytest.mark.parametrize("exploded", [False, True])
def test_notes_stand_on_a_drawing_of_the_whole(evaluator: Evaluator, exploded: bool) -> None:
    draft = plate()
    draft.draw(Drawing(name="Whole", exploded=exploded, note="Grease the pins.\n" + "Check the play. " * 60))
    e = evaluator.evaluate(draft.document)
    sheet = document_sheet(e, e.document.drawings["whole"])
    notes = [t for t in sheet.labels if "Grease" in t.text or "the play" in t.text]
    assert len(notes) > 5
    assert notes[-1].text == "Grease the pins."
    others = [t.box() for t in sheet.texts() if t not in notes]
    drawn = [p for s in sheet.strokes if s.layer == "visible" and s.curve[0] == "curve" for p in s.curve[1]]
    for x0, y0, x1, y1 in (t.box() for t in notes):
        assert 20 < x0 < x1 < sheet.size[0] - 190
        assert all(x0 >= u1 or u0 >= x1 or y0 >= v1 or v0 >= y1 for u0, v0, u1, v1 in others)
        assert not any(x0 < x < x1 and y0 < y < y1 for x, y in drawn)


def test_a_table_without_holes_is_told(evaluator: Evaluator) -> None:
    draft = Draft("Pin")
    draft.part("Bar", "steel", Block())
    draft.draw(Drawing(name="Bar", part="bar", hole_table=True))
    e = evaluator.evaluate(draft.document)
    told = [t.text for t in document_sheet(e, e.document.drawings["bar"]).labels]
    assert "No holes in a table: the view from the front shows none whose place is known exactly." in told
