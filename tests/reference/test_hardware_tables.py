"""Every row of every table of hardware: what its standard's own formulas say, and its solid in its counterpart.

Sources: ASME B1.1 (diameters of numbered sizes, pitches), ASME B18.3 (heads one and a half diameters wide from 1/4 in), ISO 15 (bore
by the last two figures), DIN 471 and 472 (a groove wider than its ring by 0.1 mm, from 2 mm by 0.15 mm), DIN 6885-1 (widths and
shafts without a gap between them), ISO 10642 (a head of 90 degrees), ISO 2901 (clearance by pitch); tap drills leave 55 to 85 % of
the thread's height (common practice).
"""

from __future__ import annotations

import itertools
from math import cos, pi, radians, tan

import numpy as np
import pytest

from tests.context import CONTEXT
from tests.reference.test_hardware import solid_of
from uhrwerk import At, Draft, Evaluator, FramePlate, NoInterference, Pin
from uhrwerk.core.document import parse
from uhrwerk.core.edit.grow import sprouts
from uhrwerk.core.elements import ELEMENTS, Bore
from uhrwerk.core.elements.hardware.sizes import inch, table
from uhrwerk.core.field import choices
from uhrwerk.core.outlines import Rectangle
from uhrwerk.core.steps import Extrude, Hole, screw_sizes
from uhrwerk.core.steps.thread import trapezoidal

INCH = 25.4e-3
KINDS = {
    "cap_screw": "screws", "countersunk_screw": "countersunk_screws", "set_screw": "set_screws", "hex_nut": "nuts",
    "washer": "washers", "dowel": "dowels", "clevis_pin": "clevis_pins", "parallel_key": "keys", "bush": "bushes",
    "ball_bearing": "bearings", "retaining_ring": "rings", "internal_retaining_ring": "internal_retaining_rings",
}  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_every_size_of_the_table_can_be_chosen(kind: str) -> None:
    offered = choices(ELEMENTS[kind].model_fields["size"])
    assert offered == tuple(table(KINDS[kind]))
    assert len(set(offered)) == len(offered)


def test_unified_threads_are_as_wide_and_as_steep_as_they_are_called() -> None:
    for size in screw_sizes.inch_sizes():
        row = screw_sizes.table()[size]
        wide, turns = size.split("-")
        a, _, b = wide.partition("/")
        d = float(a) / float(b) if b else 0.060 + 0.013 * float(a)
        assert row["head"] == pytest.approx(d * INCH, abs=1e-9)
        assert row["pitch"] == pytest.approx(INCH / float(turns), rel=1e-6)
    assert screw_sizes.table()["1/4-20"]["tap"] == pytest.approx(0.201 * INCH)  # needs: a fact of the trade


def test_tap_drills_leave_enough_thread_and_clearance_holes_grow() -> None:
    for size, row in screw_sizes.table().items():
        left = (row["head"] - row["tap"]) / (1.0825 * 1.2 * row["pitch"])
        assert 0.55 < left < 0.85, (size, left)
        assert row["head"] < row["fine"] < row["medium"] < row["coarse"], size
        assert row["coarse"] < row["recess"] or row["head"] < 3.1e-3, size
        assert row["sunk"] == 0 or row["sunk"] > row["recess"] or row["head"] < 5.1e-3 or row["sunk"] > row["coarse"], (
            size
        )


#: heights of countersunk heads, inch: ASME B18.3, for reference there, from memory
SUNK_HIGH = {"4-40": 0.083, "6-32": 0.097, "8-32": 0.112, "10-24": 0.127, "1/4-20": 0.161, "5/16-18": 0.198, "3/8-16": 0.234, "1/2-13": 0.251, "5/8-11": 0.324, "3/4-10": 0.396}  # fmt: skip


def test_heads_and_nuts() -> None:
    screws, nuts, washers = table("screws"), table("nuts"), table("washers")
    for size, t in screws.items():
        assert t["high"] == pytest.approx(t["d"], rel=1e-9), size
        assert t["socket"] / cos(radians(30)) < t["head"], size
        if size in inch("screws") and t["d"] >= 0.25 * INCH:
            assert t["head"] == pytest.approx(1.5 * t["d"], abs=0.001 * INCH), size
    assert set(screws) == set(nuts)
    for size, t in nuts.items():
        assert 1.4 < t["flats"] / t["d"] < 2.3, size
        assert 0.6 < t["high"] / t["d"] < 1.0, size
    for size, t in washers.items():
        assert t["d"] < t["inner"] < t["outer"], size
    for size, t in table("countersunk_screws").items():
        # the sharp edge of a head is as wide as its shank and what its cone of 90 or 82 degrees adds up to its height
        cone = 2 * t["high"] * tan(radians(41 if size in inch("countersunk_screws") else 45))
        assert screw_sizes.table()[size]["sunk"] == pytest.approx(t["d"] + cone, abs=1e-5), size
        assert t["d"] < t["head"] < screw_sizes.table()[size]["sunk"], size
        if size in SUNK_HIGH:
            assert t["high"] / INCH == pytest.approx(SUNK_HIGH[size], abs=0.001), size


def test_grooves_of_rings() -> None:
    for name, column, out in (("rings", "shaft", -1), ("internal_retaining_rings", "bore", 1)):
        metric = [t for size, t in table(name).items() if size not in inch(name)]
        for t in metric:
            more = 0.1e-3 if t["thick"] < 1.9e-3 else 0.15e-3
            assert t["slot"] - t["thick"] == pytest.approx(more, abs=1e-9), t
        for t in table(name).values():
            deep = out * (t["groove"] - t[column]) / 2
            assert 0 < deep < 0.04 * t[column] + 0.1e-3, t
            assert deep < t["wide"] < t["lug"], t
        for one, next_one in itertools.pairwise(metric):
            assert all(one[c] <= next_one[c] for c in (column, "groove", "thick", "wide")), next_one


def test_bearings_keys_dowels_and_trapezoidal_threads() -> None:
    bores = {"00": 10, "01": 12, "02": 15, "03": 17}
    for size, t in table("bearings").items():
        if len(size) == 4 and size.isdigit():
            assert t["bore"] * 1e3 == pytest.approx(bores.get(size[2:], 5 * int(size[2:]))), size
        elif size.isdigit():
            assert t["bore"] * 1e3 == pytest.approx(int(size[-1])), size
        else:
            assert t["bore"] == pytest.approx(int(size[1:]) / 16 * INCH), size
    metric = [t for size, t in table("keys").items() if size not in inch("keys")]
    for one, after in itertools.pairwise(metric):
        assert one["upto"] == after["above"]
    for size, t in table("keys").items():
        assert 0 < t["shaft"] + t["hub"] - t["high"] < 0.5e-3, size
        assert 0.18 < t["wide"] / t["upto"] < 0.4, size
    for size, t in table("dowels").items():
        a, _, b = size.removesuffix("in").partition("/")
        wide = float(a) / float(b or 1) * (25.4 if size in inch("dowels") else 1)
        assert t["d"] * 1e3 == pytest.approx(wide), size
    for size, t in trapezoidal().items():
        d, pitch = (float(x) for x in size[2:].split("x"))
        assert (t["d"] * 1e3, t["pitch"] * 1e3) == pytest.approx((d, pitch))
        assert t["clear"] * 1e3 == pytest.approx(0.15 if pitch < 2 else 0.25 if pitch < 6 else 0.5), size


def _added(draft: Draft, placed: str, datum: str, words: str) -> None:
    """The first that may grow there under such a title."""
    offers = sprouts(draft.document, At(placed=placed, datum=datum), CONTEXT)
    offer = next((s for s in offers if s.title.startswith(words)), None)
    assert offer is not None, (words, [s.title for s in offers])
    draft.do(parse(offer.command))


def _in_a_bore(kind: str, size: str, wide: float) -> tuple[Draft, str, str]:
    draft = Draft(size)
    far = 2 * wide * 1e3 + 40
    plate = FramePlate(length=f"{2 * far} mm", width=f"{2 * far} mm", thickness="30 mm",
                       bores={"seat": Bore(x=f"{far} mm", y=f"{far} mm", diameter=f"{wide * 1e3!r} mm")})  # fmt: skip
    return draft, draft.part("Plate", "steel", plate), "seat"


def _on_a_pin(kind: str, size: str, wide: float) -> tuple[Draft, str, str]:
    draft = Draft(size)
    return draft, draft.part("Shaft", "steel", Pin(diameter=f"{wide * 1e3!r} mm", length="160 mm")), "axis"


def _in_a_hole(kind: str, size: str, form: str) -> tuple[Draft, str, str]:
    draft = Draft(size)
    steps = {
        "plate": Extrude(name="Plate", outline=Rectangle(length="150 mm", width="150 mm"), length="60 mm"),
        "hole": Hole.model_validate({"name": "Hole", "plane": "plate.end", "screw": size, "form": form}),
    }
    return draft, draft.own_part("Plate", "steel", steps), "hole.hole_1"


COUNTERPARTS = {
    "cap_screw": (lambda size, t: _in_a_hole("", size, "plain"), "A cap screw "),
    "set_screw": (lambda size, t: _in_a_hole("", size, "tapped"), "A set screw "),
    "dowel": (lambda size, t: _in_a_bore("", size, t["d"]), "A dowel "),
    "clevis_pin": (lambda size, t: _in_a_bore("", size, t["d"] + 0.1e-3), "A clevis pin "),
    "parallel_key": (lambda size, t: _on_a_pin("", size, t["upto"]), "A key "),
    "bush": (lambda size, t: _in_a_bore("", size, t["outer"]), "A plain bush "),
    "ball_bearing": (lambda size, t: _in_a_bore("", size, t["outer"]), "A ball bearing "),
    "retaining_ring": (lambda size, t: _on_a_pin("", size, t["shaft"]), "A retaining ring "),
    "internal_retaining_ring": (lambda size, t: _in_a_bore("", size, t["bore"]), "A retaining ring "),
}


@pytest.mark.parametrize("kind", COUNTERPARTS)
def test_every_size_is_offered_where_it_fits_and_fits_there(evaluator: Evaluator, kind: str) -> None:
    """Where two sizes of a table have the same seat (bearings of two series), either may be offered."""
    make, words = COUNTERPARTS[kind]
    for size, t in table(KINDS[kind]).items():
        draft, placed, datum = make(size, t)
        if size in inch(KINDS[kind]):
            draft.set("units.length", "in")
        _added(draft, placed, datum, words)
        draft.require(NoInterference(name="Apart"))
        e = evaluator.evaluate(draft.document)
        assert e.problems == [], (size, e.problems)
        assert e.verdicts["apart"].holds, (size, e.verdicts["apart"].words)
        added = next(p for p in draft.document.parts.values() if p.element is not None and p.element.kind == kind)
        seats = [s for s, other in table(KINDS[kind]).items() if _same_seat(kind, t, other)]
        assert added.element.size in seats, (size, added.element.size)  # type: ignore[union-attr]


def _same_seat(kind: str, a: dict[str, float], b: dict[str, float]) -> bool:
    column = {"cap_screw": "clear", "set_screw": "core", "parallel_key": "upto", "bush": "outer", "ball_bearing": "outer",
              "retaining_ring": "shaft", "internal_retaining_ring": "bore"}.get(kind, "d")  # fmt: skip
    return abs(a[column] - b[column]) < 2e-5


@pytest.mark.parametrize("kind", ["cap_screw", "countersunk_screw", "hex_nut", "washer"])
def test_every_size_builds_as_large_as_its_table_says(evaluator: Evaluator, kind: str) -> None:
    for size, t in table(KINDS[kind]).items():
        if kind in ("cap_screw", "countersunk_screw"):
            element = {"size": size, "length": f"{4 * t['d'] * 1e3!r} mm"}
            high = 4 * t["d"] + (t["high"] if kind == "cap_screw" else 0.0)
            wanted = (t["head"], t["head"], high)
        else:
            element = {"size": size}
            wide = t["flats"] if kind == "hex_nut" else t["outer"]
            wanted = (wide / cos(radians(30)) if kind == "hex_nut" else wide, wide, t.get("high", t.get("thick", 0.0)))
        draft = Draft("One")
        part = draft.part("Part", "steel", ELEMENTS[kind].model_validate(element))
        solid = evaluator.solid_of(draft.document, part)[1]
        corners = np.concatenate([b.vertices for b in solid.bodies.values()])
        np.testing.assert_allclose(np.ptp(corners, axis=0), wanted, atol=5e-5, err_msg=size)


def test_a_nut_goes_on_its_screw_and_a_washer_over_it() -> None:
    """Nut, screw and tapped hole are drawn with one diameter, that of the tap drill; a washer lets the screw through."""
    for size in table("screws"):
        screw, nut = table("screws")[size], table("nuts")[size]
        assert screw["core"] == nut["core"] == screw_sizes.table()[size]["tap"]
        name = size.partition("-")[0] if size in inch("screws") else size
        washer = table("washers").get(name) or table("washers")[f"No.{name}"]
        assert screw["d"] < washer["inner"] < screw["head"] + 1e-9, size
        assert washer["outer"] > nut["flats"] * 0.99, size


def test_a_washers_volume(evaluator: Evaluator) -> None:
    t = table("washers")["1/4"]
    wanted = pi / 4 * (t["outer"] ** 2 - t["inner"] ** 2) * t["thick"]
    assert solid_of(evaluator, "washer", "1/4").volume == pytest.approx(wanted, rel=1e-9)
