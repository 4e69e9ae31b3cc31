"""Threads on drawings: thin lines at the nominal or root diameter, the thread's size for the drill's, in every view and file.

Three quarters of a circle, thin, and thin lines along the side: ISO 6410-1, section 3. Tap drill of M6: 5 mm, of M8: 6.8 mm (ISO 2306);
M8 has a pitch of 1.25 mm (ISO 261). All from memory.
"""

from __future__ import annotations

import io
from math import hypot, pi
from typing import Any

import ezdxf
import numpy as np
import pytest

from uhrwerk import Block, Draft, Pin
from uhrwerk.core.document.command import AddStep
from uhrwerk.core.document.drawing import Drawing, OwnSize
from uhrwerk.core.drafting.document_sheet import document_sheet
from uhrwerk.core.drafting.export import drawing_of, sheet_file
from uhrwerk.core.drafting.settings import with_limits
from uhrwerk.core.drafting.sheet import Round, Sheet
from uhrwerk.core.elements import ELEMENTS
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.steps import STEPS, AtPoints, Hole, Spot
from uhrwerk.core.steps.thread import Thread

TAPS = {"a": (20.0, 10.0), "b": (-20.0, 12.0)}


def tapped(**hole: Any) -> Draft:
    """A block of 90 by 60 by 20 mm with two holes tapped M6, 12 mm deep, and a plain one of the tap drill's 5 mm."""
    draft = Draft("Tapped")
    draft.part("Block", "steel", Block(length="90 mm", width="60 mm", height="20 mm"))
    spots = {i: Spot(x=f"{x} mm", y=f"{y} mm") for i, (x, y) in TAPS.items()}
    more: dict[str, Any] = {"screw": "M6", "through": False, "depth": "12 mm"} | hole
    step = Hole(name="Tap", plane="element.end", form="tapped", at=AtPoints(spots=spots), **more)
    draft.do(AddStep(part="block", step=step))
    plain = AtPoints(spots={"a": Spot(x="0 mm", y="-15 mm")})
    draft.do(AddStep(part="block", step=Hole(name="Plain", plane="element.end", diameter="5 mm", at=plain)))
    return draft


def thin_arcs(sheet: Sheet) -> list[tuple[float, float, float]]:
    """x, y and radius, m in the front view, of thin arcs of three quarters."""
    k, x, y = sheet.views["front"]
    arcs = [s.curve for s in sheet.strokes if s.layer == "thin" and s.curve[0] == "arc"]
    assert all(c[5] == pytest.approx(1.5 * pi) for c in arcs)
    return [((c[1] - x) / k, (c[2] - y) / k, c[3] / k) for c in arcs]


def leaders(sheet: Sheet) -> dict[str, Round]:
    return {d.text: d for d in sheet.dimensions if isinstance(d, Round)}


@pytest.mark.parametrize("mirrored", [False, True])
def test_tapped_holes_bear_their_thread(evaluator: Evaluator, mirrored: bool) -> None:
    draft = tapped()
    draft.set("placed.block.mirrored", mirrored)
    sheet = drawing_of(evaluator.evaluate(draft.document), "block")
    way = -1 if mirrored else 1
    wanted = sorted((way * x * 1e-3, y * 1e-3, 3e-3) for x, y in TAPS.values())
    assert np.array(sorted(thin_arcs(sheet))) == pytest.approx(np.array(wanted), abs=1e-9)
    told = leaders(sheet)
    assert set(told) == {"2\u00d7 M6 \u00d7 12", "\u23005"}
    thread = told["2\u00d7 M6 \u00d7 12"]
    assert thread.value == pytest.approx(6, abs=1e-9)
    foot, centre = thread.foot, thread.centre
    assert hypot(foot[0] - centre[0], foot[1] - centre[1]) / sheet.scale == pytest.approx(3, abs=1e-9)


def test_lines_along_a_hidden_thread_are_as_long_as_it_is_deep(evaluator: Evaluator) -> None:
    sheet = drawing_of(evaluator.evaluate(tapped().document), "block")
    k, x, y = sheet.views["beside"]
    hidden = [s.curve for s in sheet.strokes if s.layer == "hidden" and s.curve[0] == "line"]
    lines = {
        (*sorted((round((c[1] - x) / k * 1e3, 6), round((c[3] - x) / k * 1e3, 6))), round((c[2] - y) / k * 1e3, 6))
        for c in hidden
        if abs(c[2] - c[4]) < 1e-9
    }
    for _, height in TAPS.values():
        assert {(8.0, 20.0, height - 3), (8.0, 20.0, height + 3)} <= lines


def test_repeated_and_like_holes_keep_their_thread(evaluator: Evaluator) -> None:
    draft = tapped(through=True)
    again = {
        "kind": "repeat",
        "name": "Again",
        "steps": {"a": {"step": "tap"}},
        "how": {"kind": "along", "count": "2", "x": "9 mm", "y": "-30 mm"},
    }
    draft.do(AddStep(part="block", step=STEPS["repeat"].model_validate(again)))
    draft.part("Other", "steel", ELEMENTS["like"].model_validate({"part": "block", "mirrored": True}), x="200 mm")
    e = evaluator.evaluate(draft.document)
    for part, way in (("block", 1), ("other", -1)):
        sheet = drawing_of(e, part)
        wanted = sorted(
            (way * (x + dx) * 1e-3, (y + dy) * 1e-3, 3e-3) for x, y in TAPS.values() for dx, dy in ((0, 0), (9, -30))
        )
        assert np.array(sorted(thin_arcs(sheet))) == pytest.approx(np.array(wanted), abs=1e-9), part
        assert "4\u00d7 M6" in leaders(sheet)


def test_a_thread_on_a_pin_is_a_thin_line_at_its_root(evaluator: Evaluator) -> None:
    """Root of the basic profile: 8 - 1.0825 * 1.25 = 6.647 mm (ISO 724; from memory)."""
    draft = Draft("Screwed")
    draft.part("Pin", "steel", Pin(diameter="8 mm", length="30 mm"))
    draft.do(AddStep(part="pin", step=Thread(name="Thread", face="element.side", size="M8", drawn="plain")))
    e = evaluator.evaluate(draft.document)
    if "thread.axis" not in e.mechanism.datums["pin"]:
        face = next(n for n, d in e.mechanism.datums["pin"].items() if d.kind == "axis" and d.radius and "." in n)
        draft.set("parts.pin.steps.thread.face", face)
        e = evaluator.evaluate(draft.document)
    sheet = drawing_of(e, "pin")
    arcs = thin_arcs(sheet)
    assert [a[2] for a in arcs] == [pytest.approx(6.647e-3 / 2, abs=1e-6)]
    assert "M8" in leaders(sheet)


@pytest.mark.parametrize(
    ("after", "size", "words"),
    [
        ("H7", 6, "H7 (+0.012 / 0)"),
        ("g6", 25, "g6 (-0.007 / -0.02)"),
        ("h7", 50, "h7 (0 / -0.025)"),
        ("js9", 10, "js9 (+0.018 / -0.018)"),
        ("H7", 800, "H7"),
        ("M", 6, "M"),
        ("7", 6, "7"),
    ],
)
def test_a_class_has_its_limits(after: str, size: float, words: str) -> None:
    """ISO 286-2, tables of H7, g6, h7 and js9; from memory. What the tables do not hold stands as it is written."""
    assert with_limits(after, size, inches=False) == words


def test_texts_and_threads_are_read_back_from_a_dxf(evaluator: Evaluator) -> None:
    draft = tapped()
    own = OwnSize(view="front", kind="across", a="tap.hole_2", b="tap.hole_1", after="js9")
    draft.draw(Drawing(name="Block", part="block", own_sizes={"pitch": own}))
    sheet = document_sheet(evaluator.evaluate(draft.document), draft.document.drawings["block"])
    drawing = ezdxf.read(io.StringIO(sheet_file("x.dxf", sheet).decode()))  # type: ignore[attr-defined]
    assert not drawing.audit().has_errors
    texts = {d.dxf.text: d.get_measurement() for d in drawing.modelspace().query("DIMENSION")}
    style = drawing.dimstyles.get("PART").dxf.dimlfac
    assert texts["<> js9 (+0.031 / -0.031)"] * style == pytest.approx(40, abs=1e-9)
    assert texts["2\u00d7 M6 \u00d7 12"] * style == pytest.approx(6, abs=1e-9)
