"""Text as an outline against FreeType's own picture of the same font (Pillow): every letter's area, where a line of text lies."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise, product
from typing import Any

import numpy as np
import pytest
from fontTools.ttLib import TTFont
from PIL import Image, ImageDraw, ImageFont
from shapely import Polygon

from uhrwerk import Draft, Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.core.outlines import Mirrored, Offset, Outline, Rectangle, Text, Unfit, outline_data
from uhrwerk.core.outlines.polyline import polylines
from uhrwerk.core.outlines.text import FONT, _letter, _measures, _meet, _points
from uhrwerk.core.quantity import Scope
from uhrwerk.core.steps import Extrude
from uhrwerk.core.steps.cut import Cut

#: pixels for an em
FINE = 1500


def pictured(text: str) -> tuple[float, np.ndarray]:
    """Area (cap heights squared) and centre (cap heights, from the foot of the left end) of a text as FreeType fills it."""
    font = ImageFont.truetype(str(FONT), FINE, layout_engine=ImageFont.Layout.BASIC)
    wide = int(font.getlength(text)) + FINE
    image = Image.new("L", (wide, 3 * FINE))
    ImageDraw.Draw(image).text((FINE // 2, 2 * FINE), text, fill=255, font=font, anchor="ls")
    ink = np.asarray(image, dtype=float) / 255
    cap = FINE * _measures()[0] / units()
    rows, columns = np.arange(ink.shape[0])[:, None] + 0.5, np.arange(ink.shape[1])[None] + 0.5
    centre = np.array([(ink * (columns - FINE // 2)).sum(), (ink * (2 * FINE - rows)).sum()]) / ink.sum()
    return ink.sum() / cap**2, centre / cap


def units() -> float:
    return float(TTFont(FONT)["head"].unitsPerEm)


def lettered(evaluator: Evaluator, outline: Outline, adds: bool) -> tuple[float, np.ndarray]:
    """Area and centre, mm, of what an outline adds to a plate or takes from it."""
    plate = Extrude(name="Body", outline=Rectangle(length="160 mm", width="90 mm"), length="3 mm")
    step = Extrude(name="T", plane="body.end", outline=outline, length="1 mm") if adds else Cut(name="T", plane="body.end", outline=outline, depth="1 mm")  # fmt: skip
    draft = Draft("Plate")
    draft.own_part("Plate", "steel", {"body": plate, "t": step})
    e = evaluator.evaluate(draft.document)
    assert e.problems == []
    (body,) = e.solids["plate"].bodies.values()
    whole = 160 * 90 * 3
    more = body.volume * 1e9 - whole
    return abs(more), (body.volume * 1e9 * body.centroid[:2] * 1e3) / more


@pytest.mark.parametrize("text", ["B8@%", "Rä 4711", "Qß&§"])
@pytest.mark.parametrize("adds", [True, False])
def test_letters_are_as_large_as_they_are_filled(evaluator: Evaluator, text: str, adds: bool) -> None:
    area, _ = pictured(text)
    got, _ = lettered(evaluator, Text(text=text, height="8 mm", align="middle"), adds)
    assert got == pytest.approx(area * 64, rel=2e-3)


@pytest.mark.parametrize(("align", "turn"), list(product(("left", "middle", "right"), (0, 30, 180))))
def test_a_line_lies_where_it_is_stated(evaluator: Evaluator, align: str, turn: int) -> None:
    text, (x, y) = "F7 j", (4.0, -6.0)
    _, centre = pictured(text)
    wide = ImageFont.truetype(str(FONT), FINE, layout_engine=ImageFont.Layout.BASIC).getlength(text) / FINE * units() / _measures()[0]  # fmt: skip
    centre = centre - [wide * {"left": 0, "middle": 0.5, "right": 1}[align], 0]
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    outline = Text.model_validate({"text": text, "height": "10 mm", "align": align, "x": f"{x} mm", "y": f"{y} mm", "turn": f"{turn} deg"})  # fmt: skip
    _, got = lettered(evaluator, outline, True)
    np.testing.assert_allclose(got, np.array([x, y]) + 10 * centre @ np.array([[c, s], [-s, c]]), atol=0.02)


def test_mirrored_it_reads_backwards(evaluator: Evaluator) -> None:
    area, one = lettered(evaluator, Text(text="B8@2", height="10 mm", x="3 mm"), False)
    again, image = lettered(evaluator, Mirrored(of=Text(text="B8@2", height="10 mm", x="3 mm")), False)
    assert again == pytest.approx(area, rel=1e-6)
    np.testing.assert_allclose(image, one * [-1, 1], atol=1e-4)


def test_an_offset_letter_grows_out_and_in(evaluator: Evaluator) -> None:
    """The ring of an O, outward and into its opening, by shapely's offset of it; and so do the lines that are drawn of it."""
    outer, hole = (Polygon(line) for line in polylines(outline_data(_numbers(Text(text="O", height="20 mm")))))
    grown = outer.difference(hole).buffer(0.5e-3, quad_segs=64)
    offset = Offset(of=Text(text="O", height="20 mm"), by="0.5 mm")
    got, _ = lettered(evaluator, offset, True)
    assert got == pytest.approx(grown.area * 1e6, rel=5e-3)
    drawn = [Polygon(line) for line in polylines(outline_data(_numbers(offset)))]
    assert len(drawn) == 2
    assert (drawn[0].area - drawn[1].area) * 1e6 == pytest.approx(got, rel=5e-3)


def test_letters_are_the_same_from_many_threads() -> None:
    _letter.cache_clear()
    _measures.cache_clear()
    with ThreadPoolExecutor(8) as pool:
        results = list(pool.map(lambda _: outline_data(_numbers(Text(text="Quittenhof \u00e4\u00df&8@"))), range(24)))
    assert all(r == results[0] for r in results)


def _numbers(outline: Outline) -> Any:
    return numbers(outline, Scope.of({}, {"length": "mm"}))


def test_every_letter_of_the_font_is_sound() -> None:
    """Its lines cross nowhere, its holes lie within it, its pieces apart; its area is what FreeType fills."""
    high, widths = _measures()
    for letter in widths:
        pieces = [Polygon(_points(p[0]), [_points(h) for h in p[1:]]) for p in _letter(letter)]
        assert all(p.is_valid for p in pieces), letter
        assert not any(a.intersects(b) for k, a in enumerate(pieces) for b in pieces[k + 1 :]), letter
        if letter.isascii() and pieces:
            assert sum(p.area for p in pieces) / high**2 == pytest.approx(pictured(letter)[0], rel=0.01), letter


def test_what_is_seen_while_it_is_drawn_follows_the_curves() -> None:
    drawn = polylines(outline_data(_numbers(Text(text="O", height="10 mm"))))
    outer, hole = (Polygon(line) for line in drawn)
    assert (outer.area - hole.area) * 1e6 == pytest.approx(100 * pictured("O")[0], rel=0.01)


@pytest.mark.parametrize(("text", "words"), [("", "empty"), ("   ", "empty"), ("\u6f22", "the font has no"), ("a\n", "the font has no")])  # fmt: skip
def test_what_cannot_be_written_says_why(text: str, words: str) -> None:
    with pytest.raises(Unfit, match=words):
        outline_data(_numbers(Text(text=text)))


def test_neighbours_that_overlap_are_refused() -> None:
    for one, other in product("fjQWVAT()/", repeat=2):
        if _meet(one, other):
            with pytest.raises(Unfit, match="put a space between"):
                outline_data(_numbers(Text(text=one + other)))
    assert not any(_meet(a, b) for a, b in pairwise("The quick brown fox jumps over 0123456789"))
