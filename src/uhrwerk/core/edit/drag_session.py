"""Dragging a part and the mechanism with it, playing a freedom, setting the gap of a part to another."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.assembly.start import start_fields
from uhrwerk.core.document import ValidationFailed
from uhrwerk.core.document.command import SetValue
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.joints import ANGLES
from uhrwerk.core.motion import Grip, play, pull
from uhrwerk.core.proximity.body_geometry import BodyPair, PlacedBody
from uhrwerk.core.proximity.exact_fit import fitted
from uhrwerk.core.quantity import display
from uhrwerk.core.stages.evaluation import Evaluation

Array = NDArray[np.float64]

#: halvings of a pull that ran into another part: the last free place is found to 1/64 of the pull
HALVINGS = 6
#: overlap that counts as contact, m: what triangles may be off is not taken for one
TOUCH = 3e-5


@dataclass
class DragState:
    """Where everything is after a pull: pose of every placed part, and what stopped it, in words."""

    parts: dict[str, Array]
    words: str = ""


@dataclass
class DragSession:
    """A placed part taken at a point of the world, in an evaluated mechanism."""

    evaluation: Evaluation
    evaluator: Evaluator
    placed: str
    grip: Grip
    local: Array  # the point held, in the part's link, m
    contact: bool = False
    _touching: set[tuple[int, int]] = field(default_factory=set)

    @property
    def mechanism(self) -> Mechanism:
        return self.grip.mechanism

    @property
    def link(self) -> int:
        return self.mechanism.link_of[self.placed]

    def pull(self, target: Array) -> DragState:
        """Takes the held point towards `target` (3,) m, as far as joints, limits and (if asked) other parts let it."""
        before = (self.grip.pose, dict(self.grip.values))
        stops = pull(self.grip, self.link, self.local, target)
        words = self._stopped(stops)
        if self.contact:
            hit = self._hit()
            if hit is not None:
                words = f"{hit[0]} touches {hit[1]}"
                self._back_off(before, target)
        return DragState(self.parts(), words)

    def parts(self) -> dict[str, Array]:
        pose = self.mechanism.metres(self.grip.pose)
        return {p: self.mechanism.part_pose(p, pose) for p in self.mechanism.document.placed}

    def starts(self) -> list[SetValue]:
        """Commands that keep the parts where they are now. Copies follow their originals and keep no place of their own."""
        stated = self.mechanism.stated
        return [
            SetValue(path=f"placed.{p}.start", value=start_fields(stated, at))
            for p, at in self.parts().items()
            if p in stated.placed
        ]

    def _stopped(self, stops: list[str]) -> str:
        m, unit = self.mechanism, self.evaluation.document.units.length
        words = []
        for stop in stops:
            i, _, name = stop.partition(".")
            if i not in m.joints:
                return f"{m.document.placed[self.placed].name} cannot follow: the joints hold it"
            low, high = self.grip.limits[i, name]
            value = self.grip.values[i, name]
            limit = low if abs(value - low) < abs(value - high) else high
            angle = name in ANGLES
            shown = display(limit, "angle" if angle else "length", "deg" if angle else unit)
            words.append(f"{m.joints[i].name} is at its limit of {shown}")
        return "; ".join(words)

    # contact

    @cached_property
    def _pairs(self) -> list[tuple[PlacedBody, PlacedBody, BodyPair]]:
        """Bodies of different links that do not share space where the hold begins."""
        shapes = self.evaluator.shapes(self.evaluation)
        pairs = []
        for a, b in itertools.combinations(shapes, 2):
            if a.link == b.link:
                continue
            at = self._relative(a, b)
            pair = fitted(a.form, b.form, at)
            if pair.overlap(at)[0] <= TOUCH if pair.touches(at) else True:
                pairs.append((a, b, pair))
        return pairs

    def _relative(self, a: PlacedBody, b: PlacedBody) -> Array:
        pose = self.mechanism.metres(self.grip.pose)
        return poses.compose(poses.inverse(poses.compose(pose[a.link], a.local)), poses.compose(pose[b.link], b.local))

    def _hit(self) -> tuple[str, str] | None:
        for a, b, pair in self._pairs:
            at = self._relative(a, b)
            if pair.touches(at) and pair.overlap(at)[0] > TOUCH:
                names = self.mechanism.document.placed
                return names[a.placed].name, names[b.placed].name
        return None

    def _back_off(self, before: tuple[Array, dict[Any, float]], target: Array) -> None:
        """The last place on the way to the target where nothing is hit."""
        self.grip.pose, self.grip.values = before[0], dict(before[1])
        origin = poses.place(self.mechanism.metres(before[0])[self.link], self.local)
        low, high = 0.0, 1.0
        for _ in range(HALVINGS):
            mid = (low + high) / 2
            kept = (self.grip.pose, dict(self.grip.values))
            self.grip.pose, self.grip.values = before[0], dict(before[1])
            pull(self.grip, self.link, self.local, origin + mid * (target - origin))
            if self._hit() is None:
                low = mid
            else:
                high = mid
                self.grip.pose, self.grip.values = kept


def take(
    evaluation: Evaluation,
    evaluator: Evaluator,
    placed: str,
    point: Array,
    frame: float | None = None,
    contact: bool = False,
) -> DragSession:
    """Takes hold of a placed part at a point of the world (3,) m, with the mechanism as it stands (or at a frame of its
    cycle, counted from 0). ValidationFailed where there is nothing to move."""
    m = evaluation.mechanism
    if m is None or placed not in m.link_of:
        raise ValidationFailed(("placed", f"there is no placed part {placed!r}"))
    name = m.document.placed[placed].name
    if evaluation.pose is None:
        words = next((p.words for p in evaluation.problems), "the joints do not hold together")
        raise ValidationFailed(("placed", f"{name} cannot be moved: {words}"))
    if m.link_of[placed] == 0:
        raise ValidationFailed(
            ("placed", f"{name} is the frame: it stands still. Take hold of another part, or make another the frame.")
        )
    pose, values = evaluation.pose, {}
    if frame is not None and evaluation.motion is not None:
        at = int(np.clip(round(frame), 0, len(evaluation.motion.times) - 1))
        pose = evaluation.motion.pose[at]
        values = {(c.joint, c.name): float(c.value[at]) for c in evaluation.coordinates.values()}
    elif evaluation.coordinates:
        values = {(c.joint, c.name): float(c.value[0]) for c in evaluation.coordinates.values()}
    local = poses.place(poses.inverse(pose[m.link_of[placed]]), point)
    return DragSession(evaluation, evaluator, placed, Grip.at(m, pose, values), local, contact)


def swing(evaluation: Evaluation, number: int) -> Array:
    """Poses (frames, parts, 7) m of one freedom, played forth, back and home. ValidationFailed where there is no such freedom."""
    m, mobility = evaluation.mechanism, evaluation.mobility
    if m is None or mobility is None or evaluation.pose is None or not 0 <= number < len(mobility.freedoms):
        raise ValidationFailed(("freedom", "there is no such freedom"))
    one = mobility.freedoms[number]
    pose = play(m, evaluation.pose, one.joint, one.coordinate, one.motion)
    return np.stack([m.part_pose(p, pose) for p in m.document.placed], axis=1)
