"""Growing on a datum: every offer makes parts that are placed, joined and free of overlaps, in one command."""

from __future__ import annotations

import numpy as np
import pytest
from pydantic import ValidationError

from tests.context import CONTEXT
from tests.mechanisms import four_bar_closed_form
from uhrwerk import (
    At,
    Block,
    ContactKept,
    Determinate,
    Draft,
    FramePlate,
    HingeLeaf,
    NoInterference,
    Pin,
    SpurGear,
    outlines,
    steps,
)
from uhrwerk.core.assembly import compile
from uhrwerk.core.document import Document, ValidationFailed, parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.grow import sprouts
from uhrwerk.core.elements import ELEMENTS, Bore
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.evaluation.values import values
from uhrwerk.core.outlines import Circle
from uhrwerk.core.part import part_datums
from uhrwerk.core.steps import STEPS, Extrude


def grown(document: Document, placed: str, datum: str, title: str, **asked: str) -> Document:
    at = At(placed=placed, datum=datum)
    found = next(s for s in sprouts(document, at, CONTEXT) if s.title == title)
    return accept(document, parse(sprouts(document, at, CONTEXT, found.id, asked)[0].command))


def plate() -> Document:
    draft = Draft("Grown")
    draft.part("Frame plate", "steel", FramePlate(bores={"bore_1": Bore(x="40 mm", y="50 mm", diameter="8 mm")}))
    draft.require(NoInterference(name="Nothing overlaps"))
    draft.require(Determinate(name="Nothing is loose"))
    return draft.document


def driven(document: Document, joint: str, speed: str = "60 rpm", duration: str = "1 s") -> Document:
    draft = Draft("", document)
    draft.turn("Motor", joint, speed)
    draft.set("cycle.duration", duration)
    return draft.document


def holds(evaluator: Evaluator, document: Document) -> None:
    result = evaluator.evaluate(document)
    assert not result.problems, result.problems
    assert all(v.holds for v in result.verdicts.values()), [v.words for v in result.verdicts.values()]


def test_two_meshed_gears_grow_from_a_bore(evaluator: Evaluator) -> None:
    """12 and 60 teeth of module 1 mesh at m (z1 + z2) / 2 = 36 mm (common practice)."""
    one = grown(plate(), "frame_plate", "bore_1", "A gear that turns in it", teeth="12")
    both = grown(one, "gear", "axis", "Its mate, on a shaft of its own in the plate", teeth="60")
    assert both.parameters["bore_1_d"].formula == "8 mm"
    bores = both.parts["frame_plate"].element.bores  # type: ignore[attr-defined]
    assert bores["bore_1"].diameter == "bore_1_d"
    assert bores["bore"].x == "40 mm + 1 mm * (12 + 60) / 2"
    assert both.scope().value(bores["bore"].x, "length") == pytest.approx(0.076, abs=1e-12)
    document = driven(both, "shaft_on_frame_plate", "60 rpm", "5 s")
    holds(evaluator, document)
    ratio = {v.name: v.value for v in values(evaluator.evaluate(document))["pairs.gear_drives_gear_2"]}
    assert ratio["Centre distance for mesh"] == pytest.approx(0.036, abs=1e-9)


def test_a_hinge_grows_from_a_leaf(evaluator: Evaluator) -> None:
    draft = Draft("Hinge")
    draft.part("Leaf", "steel", HingeLeaf())
    draft.require(NoInterference(name="Nothing overlaps"))
    draft.require(Determinate(name="Nothing is loose"))
    document = grown(draft.document, "leaf", "pin", "Its counterpart, on a pin", opens_to="110 deg")
    joint = document.joints["other_leaf_on_leaf"]
    assert (joint.turn_from, joint.turn_to) == ("0 deg", "110 deg")  # type: ignore[attr-defined]
    holds(evaluator, driven(document, "other_leaf_on_leaf", "110 deg/s"))


def test_a_four_bar_grows_from_a_bore(evaluator: Evaluator) -> None:
    one = grown(plate(), "frame_plate", "bore_1", "A crank that turns in it")
    document = grown(one, "crank", "hole_2", "A coupler and a rocker to the plate")
    document = driven(document, "crank_shaft_on_frame_plate")
    holds(evaluator, document)
    result = evaluator.evaluate(document)
    assert result.motion is not None
    rocker = next(c for i, c in result.coordinates.items() if i.startswith("rocker_on_rocker_pivot"))
    t = result.motion.times
    want = four_bar_closed_form(0.02, 0.07, 0.05, 0.08, 2 * np.pi * t, 2 * np.pi)
    np.testing.assert_allclose(rocker.rate, want.rocker_rate, atol=1e-7)


def test_a_quick_return_grows_from_a_bore(evaluator: Evaluator) -> None:
    one = grown(plate(), "frame_plate", "bore_1", "A crank disc that turns in it")
    document = grown(one, "crank_disc", "crank_pin", "A slotted lever, its pivot in the plate")
    holds(evaluator, driven(document, "crank_shaft_on_frame_plate"))


def test_a_cam_grows_with_a_follower_that_slides_in_its_guide(evaluator: Evaluator) -> None:
    """Cam, shaft, guide, bar, roller and spring in one action: the bar goes the lift that was asked, and never leaves the cam."""
    title = "A cam that turns in it, with a bar that slides, roller and spring"
    document = grown(plate(), "frame_plate", "bore_1", title, lift="14 mm")
    document = driven(document, "camshaft_on_frame_plate")
    document = accept(document, parse({"kind": "add_requirement", "requirement": ContactKept(
        name="It stays on the cam", pair="cam_moves_roller", at_least="1 N").model_dump(mode="json")}))  # fmt: skip
    holds(evaluator, document)
    way = next(c.value for c in evaluator.evaluate(document).coordinates.values() if c.name == "slide")
    assert np.ptp(way) == pytest.approx(0.014, abs=2e-6)


def test_a_bar_grows_in_a_guide(evaluator: Evaluator) -> None:
    document = grown(plate(), "frame_plate", "bore_1", "A guide with a bar that slides in it", length="40 mm")
    result = evaluator.evaluate(document)
    assert result.mobility is not None
    assert [f.words for f in result.mobility.freedoms] == ["Slide slides along Slide guide"]
    assert result.verdicts["nothing_overlaps"].holds


def test_every_offer_on_every_datum_makes_what_can_be_evaluated(evaluator: Evaluator) -> None:
    """One growth on each datum of what has grown before: nothing is refused, nothing waits."""
    document = grown(plate(), "frame_plate", "bore_1", "A gear that turns in it")
    document = grown(document, "gear", "axis", "Its mate, on a shaft of its own in the plate", teeth="30")
    free = {"x": "130 mm", "y": "80 mm", "diameter": "6 mm"}
    change = {"kind": "set_value", "path": "parts.frame_plate.element.bores.free", "value": free}
    document = accept(document, parse(change))
    seen, met = set(), set()
    for placed, named in compile(document, CONTEXT).datums.items():
        for datum, d in named.items():
            for sprout in sprouts(document, At(placed=placed, datum=datum), CONTEXT):
                if d.kind == "plane" and (sprout.id, placed) in met:
                    continue  # one face of each part speaks for the others
                met.add((sprout.id, placed))
                after = accept(document, parse(sprout.command))
                if sprout.kind in STEPS:  # done to this part alone
                    assert evaluator.solid_of(after, placed)[1].failed is None, (placed, datum, sprout.id)
                    continue
                result = evaluator.evaluate(after.model_copy(update={"requirements": {}}))
                assert not result.problems, (sprout.id, result.problems)
                seen.add(sprout.id)
    assert len(seen) >= 14, seen


def test_what_does_not_grow_is_refused_by_name() -> None:
    at = At(placed="frame_plate", datum="bore_1")
    with pytest.raises(ValidationFailed, match="there is nothing to add here"):
        sprouts(plate(), at, CONTEXT, "pin: nonsense")
    with pytest.raises(ValidationFailed, match="no datum"):
        sprouts(plate(), At(placed="frame_plate", datum="bore_9"), CONTEXT)
    found = next(s for s in sprouts(plate(), at, CONTEXT) if s.title == "A gear that turns in it")
    with pytest.raises(ValidationFailed):
        sprouts(plate(), at, CONTEXT, found.id, {"module": "wide"})


def test_an_element_that_grows_says_so_in_its_own_file() -> None:
    assert "grows" in SpurGear.__dict__


def test_a_rack_grows_at_a_gear_and_travels_its_pitch_circle(evaluator: Evaluator) -> None:
    """pi m z for a turn (common practice)."""
    one = grown(plate(), "frame_plate", "bore_1", "A gear that turns in it", teeth="18", module="1.25 mm")
    both = grown(one, "gear", "axis", "A rack that it drives along the plate", teeth="30")
    document = driven(both, "shaft_on_frame_plate", "30 rpm", "1 s")
    result = evaluator.evaluate(document)
    assert not result.problems, result.problems
    assert result.verdicts["nothing_overlaps"].holds
    assert result.verdicts["nothing_is_loose"].holds
    (slides,) = [c for c in result.coordinates.values() if not c.turning]
    assert abs(slides.value[-1] - slides.value[0]) == pytest.approx(np.pi * 1.25e-3 * 18 / 2, rel=1e-9)


@pytest.mark.parametrize(("sun", "planets"), [("12", "3")])
def test_a_ring_and_planets_grow_round_a_sun(evaluator: Evaluator, sun: str, planets: str) -> None:
    """The carrier turns z_sun / (z_sun + z_ring) as fast as the sun where the ring stands still (Willis; common practice)."""
    one = grown(plate(), "frame_plate", "bore_1", "A gear that turns in it", teeth=sun)
    every = grown(one, "gear", "axis", "A ring and planets round it", planets=planets)
    ring = int(every.parts["ring_gear"].element.teeth)  # type: ignore[attr-defined]
    result = evaluator.evaluate(driven(every, "shaft_on_frame_plate", "60 rpm", "1 s"))
    assert not result.problems, result.problems
    assert result.mobility is not None
    assert result.mobility.count == 1
    assert result.verdicts["nothing_is_loose"].holds
    assert result.verdicts["nothing_overlaps"].holds, result.verdicts["nothing_overlaps"].words
    m, motion = result.mechanism, result.motion
    speed = [motion.velocity[0, m.link_of[p], 5] for p in ("carrier", "gear")]
    assert speed[0] / speed[1] == pytest.approx(int(sun) / (int(sun) + ring), rel=1e-9)


@pytest.mark.parametrize("asked", [{"planets": "5"}, {"planet_teeth": "13"}, {"planets": "many"}])
def test_planets_that_do_not_fit_are_refused_in_words(asked: dict[str, str]) -> None:
    one = grown(plate(), "frame_plate", "bore_1", "A gear that turns in it", teeth="12")
    at = At(placed="gear", datum="axis")
    with pytest.raises(ValidationFailed, match=r"planet|invalid"):
        sprouts(one, at, CONTEXT, "", {"planet_teeth": "12"} | asked)


def test_a_bushing_a_collar_a_post_and_a_leaf(evaluator: Evaluator) -> None:
    bushed = grown(plate(), "frame_plate", "bore_1", "A bushing held in it", bore="5 mm")
    turning = grown(bushed, "bushing", "bore", "A shaft that turns in it", length="30 mm")
    collared = grown(turning, "shaft", "axis", "A collar held on it")
    posted = grown(collared, "frame_plate", "top", "A post on it", length="12 mm")
    holds(evaluator, driven(grown(posted, "frame_plate", "right", "A hinge leaf on it"), "shaft_on_bushing"))


def test_what_is_asked_of_one_is_not_asked_of_others() -> None:
    """Several ask for a size: a radius here, a thread there, a screw elsewhere."""
    draft = Draft("Asked")
    steps = {"post": Extrude(name="Post", outline=Circle(diameter="8 mm"), length="20 mm")}
    draft.own_part("Post", "steel", steps)
    for datum in ("post.side_1", "post.end"):
        (one,) = sprouts(
            draft.document, At(placed="post", datum=datum), CONTEXT, "edges: Round its edges", {"size": "1 mm"}
        )
        assert one.command["commands"][0]["step"]["size"] == "1 mm"
    (thread,) = sprouts(
        draft.document,
        At(placed="post", datum="post.side_1"),
        CONTEXT,
        "thread: A thread M8",
        {"size": "M8", "gap": "0.1 mm"},
    )
    assert thread.command["commands"][0]["step"]["gap"] == "0.1 mm"


def test_a_mate_has_teeth_shift_shaft_and_direction_of_its_own() -> None:
    """Its bore lies so far off as teeth and module say, in the direction asked for; with profile shifts at their working distance."""
    one = grown(plate(), "frame_plate", "bore_1", "A gear that turns in it", teeth="12")
    title = "Its mate, on a shaft of its own in the plate"
    x0, y0 = (one.scope().value(getattr(one.parts["frame_plate"].element.bores["bore_1"], k), "length") for k in "xy")  # type: ignore[attr-defined]
    both = grown(one, "gear", "axis", title, teeth="2 * 10", shaft_bore="6.2 mm", direction="30 deg")
    bore = both.parts["frame_plate"].element.bores["bore"]  # type: ignore[attr-defined]
    x, y = (both.scope().value(getattr(bore, k), "length") for k in "xy")
    np.testing.assert_allclose([x - x0, y - y0], [16e-3 * np.cos(np.pi / 6), 8e-3], atol=1e-12)
    assert bore.diameter == "6.2 mm"
    assert both.parts["gear_2"].element.teeth == "2 * 10"  # type: ignore[attr-defined]
    # x1 + x2 = 0.4 of 12 and 20 teeth: the working distance lies between m (z1 + z2) / 2 and that plus 0.4 m (DIN 3960, from memory)
    shifted = grown(one, "gear", "axis", title, teeth="20", profile_shift="0.4")
    bore = shifted.parts["frame_plate"].element.bores["bore"]  # type: ignore[attr-defined]
    far = np.hypot(*(shifted.scope().value(getattr(bore, k), "length") - at for k, at in (("x", x0), ("y", y0))))
    assert 16e-3 < far < 16.4e-3
    with pytest.raises(ValidationFailed, match=r"whole number, not 20\.5"):
        sprouts(one, At(placed="gear", datum="axis"), CONTEXT, f"spur_gear: {title}", {"teeth": "20.5"})


@pytest.mark.parametrize("kind", [k for k, e in ELEMENTS.items() if e.group != "Imported"])
def test_every_datum_of_every_element_says_what_fits_there(kind: str) -> None:
    """Beside a plate that can take bores: an answer, never an error."""
    try:
        element = ELEMENTS[kind]()
    except ValidationError:
        pytest.skip("it states a file")
    draft = Draft("Beside a plate")
    draft.part("Plate", "steel", FramePlate(bores={"one": Bore(x="40 mm", y="40 mm", diameter="8 mm")}))
    part = draft.part("Other", "steel", element, x="200 mm")
    for datum in part_datums.datums(draft.document, draft.document.placed[part].part, CONTEXT):
        sprouts(draft.document, At(placed=part, datum=datum), CONTEXT)


def test_what_is_likely_is_offered_first(evaluator: Evaluator) -> None:
    """At a pin: rings, keys and bearings of its size before gears, those before cams and couplings; at a leaf, its counterpart."""
    draft = Draft("Pin")
    pin = draft.part("Pin", "steel", Pin(diameter="12 mm", length="60 mm"))
    leaf = draft.part("Leaf", "steel", HingeLeaf(bore="12.1 mm", knuckle_diameter="18 mm"), x="200 mm")
    kinds = [s.kind for s in sprouts(draft.document, At(placed=pin, datum="axis"), CONTEXT) if s.kind in ELEMENTS]
    assert kinds.index("retaining_ring") < kinds.index("spur_gear") < kinds.index("plate_cam")
    assert kinds.index("parallel_key") < kinds.index("jaw_hub")
    assert sprouts(draft.document, At(placed=leaf, datum="pin"), CONTEXT)[0].kind == "hinge_leaf"


def test_what_sits_on_a_pin_takes_its_size_and_its_material() -> None:
    draft = Draft("Axle")
    draft.part("Axle", "brass", Pin(diameter="6 mm", length="40 mm"))
    document = grown(draft.document, "axle", "axis", "A gear held on it")
    assert document.parameters["axle_d"].formula == "6 mm"
    assert document.parts["axle"].element.diameter == "axle_d"  # type: ignore[attr-defined]
    assert document.parts["gear"].element.bore == "axle_d"  # type: ignore[attr-defined]
    assert document.parts["gear"].material == "brass"
    again = grown(document, "axle", "axis", "A gear held on it")
    assert again.parts["gear_2"].element.bore == "axle_d"  # type: ignore[attr-defined]
    assert list(again.parameters) == ["axle_d"]


def test_a_size_that_follows_a_parameter_is_followed_as_it_is_written() -> None:
    draft = Draft("Axle")
    draft.parameter("hole", "6 mm")
    draft.part("Axle", "steel", Pin(diameter="hole - 0.1 mm", length="40 mm"))
    document = grown(draft.document, "axle", "axis", "A gear held on it")
    assert document.parts["gear"].element.bore == "(hole - 0.1 mm)"  # type: ignore[attr-defined]
    assert list(document.parameters) == ["hole"]


def test_a_hole_of_a_build_step_shares_its_size_with_what_runs_in_it() -> None:
    draft = Draft("Own")
    bar = steps.Extrude(name="Bar", outline=outlines.Rectangle(length="40 mm", width="20 mm"), length="8 mm")
    hole = steps.Hole(name="Hole", plane="bar.end", diameter="6 mm", at=steps.AtPoints(spots={"a": steps.Spot()}))
    draft.own_part("Lug", "brass", {"bar": bar, "hole": hole})
    draft.part("Lug 2", "steel", Block(), x="80 mm")
    wall = next(i for i, d in part_datums.datums(draft.document, "lug", CONTEXT).items() if d.side == "bore")
    document = grown(draft.document, "lug", wall, "A shaft that turns in it")
    assert document.parts["lug"].steps["hole"].diameter == "lug_d"  # type: ignore[attr-defined]
    assert document.parts["shaft"].element.diameter == "lug_d - 0.1 mm"  # type: ignore[attr-defined]
    assert document.parameters["lug_d"].formula == "6 mm"
