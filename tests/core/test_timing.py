"""Drawing in the timing chart: what a drawn corner, a split, a stay and a taken segment make of a programme."""

from __future__ import annotations

import numpy as np
import pytest

from tests.context import CONTEXT
from tests.mechanisms import four_bar
from uhrwerk import Draft, LinkBar, Pin, ValidationFailed
from uhrwerk.core.document import Document, apply, parse
from uhrwerk.core.edit.timing import TimingEdit, changed
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.field import numbers
from uhrwerk.core.laws.segment import SlideSegment
from uhrwerk.core.motion.drivers import SlideProgramme
from uhrwerk.core.requirements.wanted_motion import WantedMotion
from uhrwerk.core.views.cards import cards
from uhrwerk.core.views.lanes import lanes
from uhrwerk.core.views.scheme import scheme
from uhrwerk.core.views.sketch import sketch
from uhrwerk.demo.folder import folder


def lift(**segments: tuple[str, str]) -> Document:
    d = Draft("Lift")
    base = d.part("Base", "steel", LinkBar(distance="80 mm"))
    slide = d.part("Slide", "steel", Pin(diameter="6 mm", length="10 mm"), x="80 mm", z="30 mm")
    joint = d.prismatic("Slides", base["hole_1"], slide["axis"])
    stated = {i: SlideSegment(to=to, over=over) for i, (to, over) in segments.items()}
    d.drive(SlideProgramme(name="Lift", joint=joint, **({"segments": stated} if stated else {})))
    d.set("cycle.duration", "2 s")
    return d.document


def after(document: Document, **change: object) -> dict[str, tuple[str, str]]:
    """The segments (to, over) that a change makes."""
    command = parse(changed(document, TimingEdit(driver="lift", **change)))  # type: ignore[arg-type]
    segments = apply(document, command).drivers["lift"].segments  # type: ignore[attr-defined]
    return {i: (s.to, s.over) for i, s in segments.items()}


DEFAULT = {
    "out": ("20 mm", "120 deg"),
    "stay": ("20 mm", "60 deg"),
    "back": ("0 mm", "120 deg"),
    "rest": ("0 mm", "60 deg"),
}


def test_a_corner_drawn_in_time_takes_from_the_next_segment() -> None:
    found = after(lift(), segment="out", what="corner", until=130)
    assert found == {**DEFAULT, "out": ("20 mm", "130 deg"), "stay": ("20 mm", "50 deg")}


def test_what_follows_moves_along_if_asked() -> None:
    found = after(lift(), segment="out", what="corner", until=130, following=True)
    assert found == {**DEFAULT, "out": ("20 mm", "130 deg")}


def test_a_corner_drawn_in_value_takes_the_standstill_after_it_along() -> None:
    found = after(lift(), segment="out", what="corner", to="25 mm")
    assert found == {**DEFAULT, "out": ("25 mm", "120 deg"), "stay": ("25 mm", "60 deg")}


def test_a_segment_stated_in_seconds_stays_in_seconds() -> None:
    found = after(lift(out=("20 mm", "0.5 s"), back=("0 mm", "90 deg")), segment="out", what="corner", until=108)
    assert found == {"out": ("20 mm", "0.6 s"), "back": ("0 mm", "72 deg")}


def test_a_split_leaves_where_the_motion_goes_and_halves_the_rest() -> None:
    found = after(lift(), segment="out", what="split")
    assert list(found) == ["out", "out_2", "stay", "back", "rest"]
    assert (found["out"], found["out_2"]) == (("10 mm", "60 deg"), ("20 mm", "60 deg"))


def test_a_stay_after_a_segment_moves_no_other_corner() -> None:
    found = after(lift(), segment="back", what="stay")
    assert list(found) == ["out", "stay", "back", "stay_2", "rest"]
    assert (found["back"], found["stay_2"]) == (("0 mm", "60 deg"), ("0 mm", "60 deg"))


def test_a_segment_taken_out_leaves_its_time_to_the_next() -> None:
    assert after(lift(), segment="stay", what="remove") == {
        "out": ("20 mm", "120 deg"), "back": ("0 mm", "180 deg"), "rest": ("0 mm", "60 deg"),
    }  # fmt: skip
    assert after(lift(), segment="rest", what="remove")["back"] == ("0 mm", "180 deg")


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"segment": "back", "what": "corner", "until": 100}, "until", "lies before the segment begins, at 180°"),
        ({"segment": "out", "what": "corner", "until": 181}, "until", "lies behind the end of stay"),
        ({"segment": "none", "what": "split"}, "segment", "has no segment 'none'"),
        ({"driver": "other", "segment": "out", "what": "split"}, "driver", "there is no programme 'other'"),
    ],
)
def test_what_cannot_be_drawn_is_refused_with_the_reason(change: dict, field: str, words: str) -> None:
    with pytest.raises(ValidationFailed) as told:
        changed(lift(), TimingEdit(**{"driver": "lift", **change}))
    assert told.value.faults[0][0] == field
    assert words in told.value.faults[0][1]


def test_one_segment_at_least_is_kept() -> None:
    with pytest.raises(ValidationFailed, match="one segment at least"):
        changed(lift(all=("0 mm", "90 deg")), TimingEdit(driver="lift", segment="all", what="remove"))


def wanted(document: Document, **fields: str) -> Document:
    asked = WantedMotion(name="Up", joint="slides", **fields)
    return document.model_copy(update={"requirements": {"up": asked}})


@pytest.mark.parametrize(
    ("fields", "holds", "value"),
    [
        ({"slide": "20 mm", "by": "120 deg", "until": "180 deg"}, True, 0.0),
        ({"slide": "19.97 mm", "by": "120 deg", "until": "1 s"}, True, 3e-5),
        ({"slide": "20 mm", "by": "120 deg", "until": "210 deg"}, False, None),
        ({"slide": "20 mm", "by": "60 deg", "until": "60 deg"}, False, 0.01),
        ({"slide": "20 mm", "by": "60 deg", "until": "60 deg", "slide_within": "10.001 mm"}, True, 0.01),
        ({"slide": "0 mm", "by": "300 deg", "until": "360 deg"}, True, 0.0),
        ({"turn": "20 deg"}, None, None),
        ({"slide": "20 mm", "by": "180 deg", "until": "120 deg"}, None, None),
        ({"slide": "20 mm", "by": "180 deg", "until": "400 deg"}, None, None),
    ],
)
def test_a_wanted_motion_is_held_against_every_moment(
    evaluator: Evaluator, fields: dict[str, str], holds: bool | None, value: float | None
) -> None:
    """The middle of a mirrored law lies in the middle of its way: 10 mm at 60 degrees of 120."""
    e = evaluator.evaluate(wanted(lift(), **fields))
    v = e.verdicts["up"]
    assert v.holds is holds
    if value is not None:
        assert v.value == pytest.approx(value, abs=2e-8)
    if holds is False and value is None:  # 20 mm back by the 3-4-5 polynomial, a quarter of its way through
        x = 30 / 120
        assert v.value == pytest.approx(0.02 * (10 * x**3 - 15 * x**4 + 6 * x**5), abs=1e-7)


def test_lanes_tell_the_segments_and_what_is_wanted(evaluator: Evaluator) -> None:
    found = lanes(evaluator.evaluate(wanted(lift(), slide="20 mm", by="120 deg", until="180 deg")))
    driven, asked = (next(lane for lane in found if lane["kind"] == kind) for kind in ("input", "wanted"))
    assert [(s["id"], s["begin"], s["end"], s["start"], s["to"]) for s in driven["segments"]] == [
        ("out", 0, pytest.approx(120), 0, 20), ("stay", pytest.approx(120), pytest.approx(180), 20, 20), ("back", pytest.approx(180), pytest.approx(300), 20, 0),
        ("rest", pytest.approx(300), pytest.approx(360), 0, 0),
    ]  # fmt: skip
    assert asked["band"] == pytest.approx([2 / 3, 1, 19.95, 20.05])
    assert np.ptp([p[1] for p in asked["points"]]) == pytest.approx(20, abs=1e-6)


def test_a_programme_the_other_way_is_its_image(evaluator: Evaluator) -> None:
    document = lift()
    back = document
    for field, text in document.drivers["lift"].reverse().items():
        back = apply(back, parse({"kind": "set_value", "path": f"drivers.lift.{field}", "value": text}))
    n = [numbers(d.drivers["lift"], d.scope()) for d in (document, back)]
    t = np.linspace(0, 2, 50)
    one, other = (SlideProgramme.law(x, 2.0).value(t) for x in n)
    assert one == pytest.approx(-other)
    again = dict(back.drivers["lift"].reverse().items())
    assert again["segments.out.to"] == "20 mm"


def test_the_cycle_tells_after_how_long_everything_repeats_and_offers_it(evaluator: Evaluator) -> None:
    document = four_bar(0.03, 0.09, 0.06, 0.08, speed="50 rpm", duration="3.1 s")
    card = cards(evaluator.evaluate(document))["cycle"]
    assert card["results"] == [["Everything repeats after", "1.200000 s"]]
    assert card["offer"]["path"] == "cycle.duration"
    after = apply(document, parse({"kind": "set_value", "path": "cycle.duration", "value": card["offer"]["value"]}))
    assert "offer" not in cards(evaluator.evaluate(after))["cycle"]


def test_the_scheme_shows_a_cam_with_its_follower_and_which_way_it_is_driven(evaluator: Evaluator) -> None:
    document = folder()
    drawn = scheme(evaluator.moved(document))
    (cam,) = drawn["cams"]
    assert (cam["placed"], cam["follower"], cam["guide"]) == ("cam", "roller", "bell_crank_swings_in_plate")
    assert cam["radius"] == pytest.approx(0.011)
    assert [n["sense"] for n in drawn["nodes"] if n["driven"]] == [1]
    back = apply(document, parse({"kind": "set_value", "path": "drivers.motor.speed", "value": "-300 rpm"}))
    assert [n["sense"] for n in scheme(evaluator.moved(back))["nodes"] if n["driven"]] == [-1]
    assert sum(d.endswith("Z") for d in sketch(document, CONTEXT)["links"]) == 1
