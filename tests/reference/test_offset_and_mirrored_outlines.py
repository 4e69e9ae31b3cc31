"""Offsets and images of outlines, against closed forms and against shapely's buffers."""

from __future__ import annotations

from math import pi

import numpy as np
import pytest
from shapely import Polygon
from shapely.affinity import rotate, scale

from uhrwerk import Draft, Evaluator
from uhrwerk.core.outlines import OUTLINES, Circle, Difference, Mirrored, Offset, Outline, Points, Rectangle, Slot
from uhrwerk.core.steps import Extrude

HIGH = 3.0
LEVER = {"corners": {"a": {"x": "-10 mm", "y": "0 mm"}, "b": {"x": "25 mm", "y": "-4 mm"}, "c": {"x": "18 mm", "y": "12 mm"}, "d": {"x": "0 mm", "y": "9 mm"}}}  # fmt: skip
CORNERS = [(-10, 0), (25, -4), (18, 12), (0, 9)]


def drawn_out(evaluator: Evaluator, outline: Outline) -> tuple[float, np.ndarray]:
    """Area (mm2) and centroid (mm) of an outline, by the solid that is drawn out from it."""
    draft = Draft("Plate")
    part = draft.own_part("Plate", "steel", {"plate": Extrude(name="Plate", outline=outline, length=f"{HIGH} mm")})
    e = evaluator.evaluate(draft.document)
    assert not e.problems, e.problems
    solid = e.solids[part]
    return solid.volume * 1e9 / HIGH, solid.centroid[:2] * 1e3


@pytest.mark.parametrize("by", [-2.0, -0.25, 0.0, 0.5, 6.0])
def test_offsets_by_closed_form(evaluator: Evaluator, by: float) -> None:
    """Corners stay sharp; an opening becomes smaller where the outline becomes larger."""
    plate = Rectangle(length="40 mm", width="24 mm", x="7 mm", y="-3 mm")
    area, centre = drawn_out(evaluator, Offset(of=plate, by=f"{by} mm"))
    assert area == pytest.approx((40 + 2 * by) * (24 + 2 * by), rel=1e-9)
    assert centre == pytest.approx((7, -3), abs=1e-9)
    area, _ = drawn_out(evaluator, Offset(of=Circle(diameter="14 mm"), by=f"{by} mm"))
    assert area == pytest.approx(pi * (7 + by) ** 2, rel=1e-9)
    slot = Slot(length="30 mm", width="12 mm")
    (bare, _), (area, _) = drawn_out(evaluator, slot), drawn_out(evaluator, Offset(of=slot, by=f"{by} mm"))
    around = 2 * (bare - pi * 36) / 12 + 2 * pi * 6
    assert area == pytest.approx(bare + around * by + pi * by**2, rel=1e-8)  # Steiner, a line without corners
    frame = Difference(of={"a": plate, "b": Circle(x="7 mm", y="-3 mm", diameter="14 mm")})
    area, _ = drawn_out(evaluator, Offset(of=frame, by=f"{by} mm"))
    assert area == pytest.approx((40 + 2 * by) * (24 + 2 * by) - pi * (7 - by) ** 2, rel=1e-9)


@pytest.mark.parametrize("by", [-1.5, 2.0])
def test_an_offset_against_shapely(evaluator: Evaluator, by: float) -> None:
    area, centre = drawn_out(evaluator, Offset(of=Points.model_validate(LEVER), by=f"{by} mm"))
    wanted = Polygon(CORNERS).buffer(by, join_style="mitre", mitre_limit=20)
    assert area == pytest.approx(wanted.area, rel=1e-9)
    assert centre == pytest.approx(wanted.centroid.coords[0], abs=1e-9)


@pytest.mark.parametrize("angle", [0.0, 90.0, 33.0])
def test_an_image_against_shapely(evaluator: Evaluator, angle: float) -> None:
    line = {"x": "3 mm", "y": "-2 mm", "angle": f"{angle} deg"}
    area, centre = drawn_out(evaluator, Mirrored.model_validate({"of": {"kind": "points", **LEVER}, **line}))
    one = Polygon(CORNERS)
    image = rotate(scale(rotate(one, -angle, (3, -2)), 1, -1, origin=(3, -2)), angle, (3, -2))
    assert area == pytest.approx(image.area, rel=1e-9)
    assert centre == pytest.approx(image.centroid.coords[0], abs=1e-9)
    both = Mirrored.model_validate({"of": {"kind": "points", **LEVER}, **line, "both": True})
    area, centre = drawn_out(evaluator, both)
    assert area == pytest.approx(one.union(image).area, rel=1e-8)
    assert centre == pytest.approx(one.union(image).centroid.coords[0], abs=1e-7)


@pytest.mark.parametrize("kind", ["arc_slot", "hull", "path", "polygon", "slot", "difference", "sum", "offset"])
def test_the_image_of_every_kind_is_as_large(evaluator: Evaluator, kind: str) -> None:
    outline = OUTLINES[kind]()
    area, centre = drawn_out(evaluator, outline)
    other, there = drawn_out(evaluator, Mirrored(of=outline, angle="0 deg"))
    assert other == pytest.approx(area, rel=1e-9)
    assert there == pytest.approx(centre * [1, -1], abs=1e-9)


def test_what_cannot_be_is_refused_by_name(evaluator: Evaluator) -> None:
    for outline, words in (
        (Offset(of=Circle(diameter="6 mm"), by="-4 mm"), "leaves nothing of the circle"),
        (Offset(of=Rectangle(length="6 mm", width="4 mm"), by="-4 mm"), "leaves no single line"),
        (Offset(of=Difference(of={"a": Rectangle(length="40 mm", width="4 mm"), "b": Circle(diameter="10 mm")}), by="1 mm"), "several pieces"),
    ):  # fmt: skip
        draft = Draft("Plate")
        draft.own_part("Plate", "steel", {"plate": Extrude(name="Plate", outline=outline, length="3 mm")})
        problems = evaluator.evaluate(draft.document).problems
        assert any(words in str(p) for p in problems), (words, problems)
