"""Sixty single numbers of the mended demo are spoilt; each is found by the requirement that should find it.

Which one should is what a designer knows of each module (common practice). What it must measure is told in closed form for travel and
time ratio; for mass from densities and the volumes of the solids, which other tests hold against the outside.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import pytest

from uhrwerk.core.evaluation.evaluator import Evaluation, Evaluator
from uhrwerk.demo import mended
from uhrwerk.draft import Draft


@dataclass(frozen=True)
class Break:
    """A number of a demo module, its text, and the requirement that finds it."""

    module: str
    path: str
    text: str
    finds: str

    def __str__(self) -> str:
        return f"{self.module} {self.path.split('.')[-2 if self.path.endswith('formula') else -1]} {self.text}"


def _mass(module: str, material: str, factors: list[float], plain: str) -> list[Break]:
    unit = "g/cm^3"
    return [
        Break(module, f"materials.{material}.density", f"{float(plain) * f:.4f} {unit}", "moving_mass") for f in factors
    ]


P, G, F, C = "posts.guide_post", "guard_lid", "folder", "foil_cutter"
BREAKS = [
    # the crank's throw against its distance: the ratio of forward to return is told below in closed form
    *(Break("pusher", "parameters.crank.formula", f"{c} mm", "return_is_quick") for c in (8, 12, 15, 18, 20, 21)),
    *(Break("pusher", "parameters.centres.formula", f"{d} mm", "return_is_quick") for d in (72, 73, 74, 76, 78)),
    # the lid opens by speed times time
    *(Break(G, "drivers.opening.speed", f"{w} deg/s", "opens_far_enough") for w in (60, 90, 110, 124.5)),
    *(Break(G, "cycle.duration", f"{t} s", "opens_far_enough") for t in (0.5, 1.0, 1.9, 1.99)),
    # a bore that is no wider than the pin in it, or the pin wider than the bore
    *(Break(G, "parts.lid_leaf.element.bore", b, "lid_turns_on_its_pin") for b in ("pin_d", "pin_d + 0.05 mm", "pin_d - 0.1 mm", "5.02 mm")),
    *(Break(G, "parts.hinge_pin.element.diameter", f"{d} mm", "lid_turns_on_its_pin") for d in (5.05, 5.1, 5.3)),
    # masses: the share of each material in what moves is told below from volumes
    *_mass("foil_tucker", "brass", [1.4, 2.0, 4.0], "8.50"), *_mass("foil_tucker", "steel", [3.0, 6.0], "7.85"),
    *_mass("main_drive", "brass", [3.0, 5.0], "8.50"), *_mass("main_drive", "steel", [3.0, 5.0], "7.85"),
    # a smaller base circle presses more from the side; a looser spring leaves the cam (an extension spring pulls less, the longer it is)
    *(Break(F, "parameters.base.formula", f"{b} mm", "cam_pushes_straight") for b in (44, 46, 48, 50)),
    *(Break(F, "pairs.spring.free_length", f"{x} mm", "roller_stays_on_the_cam") for x in (56, 58, 60)),
    *(Break(F, "pairs.spring.wire_diameter", f"{x} mm", "roller_stays_on_the_cam") for x in (0.5, 0.7)),
    # a balanced rotor with one of its three numbers elsewhere
    *(Break(C, "parameters.weight_radius.formula", f"{r} mm", "centre_on_the_axis") for r in (19, 21, 23.5, 26)),
    *(Break(C, "parameters.weight_thickness.formula", f"{t} mm", "centre_on_the_axis") for t in (6, 7, 9, 11)),
    *(Break(C, "parameters.weight_angle.formula", f"{a} deg", "runs_quietly") for a in (160, 190, 198, 210)),
    # the ring closes by what is asked of it: less is too little, more runs into the cup
    *(Break("gripper_ring", "parameters.closing.formula", f"{x} deg", "crossing_closes") for x in (20, 30, 37)),
    *(Break("gripper_ring", "parameters.closing.formula", f"{x} deg", "ring_clears_the_cup") for x in (50, 60)),
    # printed in one piece: less than a layer under the planets
    *(Break("planetary_sample", "parameters.lift.formula", f"{x} mm", "nothing_fuses") for x in (0.05, 0.1, 0.15)),
    # a finger as wide as before comes to the post
    *(Break("foil_tucker", "parameters.finger_w.formula", f"{w} mm", "rocker_clears_post") for w in (11.5, 12.8)),
]  # fmt: skip


@pytest.fixture(scope="module")
def whole(evaluator: Evaluator) -> Callable[[str], Evaluation]:
    known: dict[str, Evaluation] = {}

    def found(module: str) -> Evaluation:
        if module not in known:
            known[module] = evaluator.evaluate(mended(module))
        return known[module]

    return found


def test_there_are_sixty_and_each_is_another() -> None:
    assert len(BREAKS) >= 60
    assert len({(b.module, b.path, b.text) for b in BREAKS}) == len(BREAKS)


@pytest.mark.parametrize("spoilt", BREAKS, ids=str)
def test_a_spoilt_number_is_found_by_its_requirement(
    evaluator: Evaluator, whole: Callable[[str], Evaluation], spoilt: Break
) -> None:
    before = whole(spoilt.module)
    assert before.verdicts[spoilt.finds].holds is True  # it is this number that spoils it
    draft = Draft("x", before.stated)
    draft.set(spoilt.path, spoilt.text)
    after = evaluator.evaluate(draft.document)
    v = after.verdicts[spoilt.finds]
    assert v.holds is False, v.words
    wanted = _closed_form(spoilt, after)
    if wanted is not None:
        assert v.value == pytest.approx(wanted, abs=v.error + 1e-6 * abs(wanted))
    if v.limit is not None and v.value is not None:
        assert v.value < v.limit if v.sense == ">=" else v.value > v.limit


def _closed_form(b: Break, e: Evaluation) -> float | None:
    """What the requirement must measure, where that can be told without the product."""
    scope = e.document.scope()
    if b.finds == "return_is_quick":  # the lever is square to the crank at both ends of its swing
        half = math.asin(scope.value("crank", "length") / scope.value("centres", "length"))
        return (math.pi + 2 * half) / (math.pi - 2 * half)
    if b.finds == "opens_far_enough":
        speed, time = (
            scope.value(t, d)
            for t, d in ((e.document.drivers["opening"].speed, "turning speed"), (e.document.cycle.duration, "time"))
        )  # type: ignore[attr-defined]
        return float(speed * time)
    if b.finds == "crossing_closes":
        return float(2 * scope.value("closing", "angle"))
    if b.finds == "moving_mass":
        m, document = e.mechanism, e.document
        assert m is not None
        return sum(
            e.solids[i].volume * scope.value(document.materials[document.parts[p.part].material].density, "density")
            for i, p in document.placed.items() if m.link_of[i] != 0
        )  # fmt: skip
    return None
