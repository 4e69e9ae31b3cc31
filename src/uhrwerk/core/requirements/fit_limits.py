"""Fit: the clearance of pin and bore, by the limits of both, lies within its limits."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, StringConstraints

from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.field import Length, ShownAsWritten
from uhrwerk.core.joints.at import At
from uhrwerk.core.quantity.size_limits import deviations
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

#: a tolerance class, or two deviations
Limits = Annotated[str, StringConstraints(min_length=1, max_length=60, strip_whitespace=True), ShownAsWritten()]
#: axes farther apart are not one, m; and not parallel, sine of the angle
ONE_AXIS = 1e-6
#: limits are sums of a few numbers: they are the same to this, m
SAME = 1e-12


class FitLimits(Requirement):
    """The least and the greatest clearance of a pin in its bore, from the limits of both diameters, lie within what is asked; below
    zero it is an interference. Each limit counts from the diameter as drawn."""

    title: ClassVar[str] = "Fit of a pin in a bore"

    kind: Literal["fit"] = "fit"
    bore: At
    bore_limits: Limits = Field(default="H7", title="Limits of the bore")
    pin: At
    pin_limits: Limits = Field(default="g6", title="Limits of the pin")
    at_least: Length = Field(default="0 mm", title="Clearance at least")
    at_most: Length = Field(default="0.05 mm", title="Clearance at most")

    def faults(self, document: Document) -> Iterable[tuple[str, str]]:
        for field, text in (("bore_limits", self.bore_limits), ("pin_limits", self.pin_limits)):
            try:
                deviations(text, 0.01)
            except ValueError as error:
                yield field, str(error)

    def judge(self, e: Evaluation) -> Verdict:
        m, scope, shown = e.mechanism, e.document.scope(), e.document.display
        for at, side in ((self.bore, "bore"), (self.pin, "pin")):
            d = m.datums.get(at.placed, {}).get(at.datum)
            if d is None or d.kind != "axis" or d.side != side:
                return self.undecided(f"{e.document.placed[at.placed].name}, {at.datum} is no {side} with a diameter")
        bore, pin = (m.place(at) for at in (self.bore, self.pin))
        pose = e.moved.motion.track.pose
        a, b = (poses.compose(pose[:, p.link], p.frame) for p in (bore, pin))
        z, other = (poses.rotate(f[:, 3:], np.array([0.0, 0, 1])) for f in (a, b))
        off = b[:, :3] - a[:, :3]
        beside = np.linalg.norm(off - (off * z).sum(axis=1)[:, None] * z, axis=1).max()
        if beside > ONE_AXIS or np.linalg.norm(np.cross(z, other), axis=1).max() > ONE_AXIS:
            return self.undecided("bore and pin do not lie on one axis all through the cycle")
        sizes = [2 * p.datum.radius for p in (bore, pin)]
        try:
            (low, high), (small, large) = (
                deviations(t, s) for t, s in zip((self.bore_limits, self.pin_limits), sizes, strict=True)
            )
        except ValueError as error:
            return self.undecided(str(error))
        nominal = sizes[0] - sizes[1]
        least, greatest = nominal + low - large, nominal + high - small
        bounds = scope.value(self.at_least, "length"), scope.value(self.at_most, "length")
        if bounds[0] > bounds[1]:
            return self.undecided("the least clearance required lies above the greatest")
        tight, loose = least - bounds[0], bounds[1] - greatest
        value, limit, sense = (least, bounds[0], ">=") if tight <= loose else (greatest, bounds[1], "<=")
        words = (
            f"clearance {shown(least, 'length', 3)} to {shown(greatest, 'length', 3)}, "
            f"{shown(bounds[0], 'length', 3)} to {shown(bounds[1], 'length', 3)} required"
        )
        basis = f"limits of ⌀ {shown(sizes[0], 'length', 3)} {self.bore_limits} and ⌀ {shown(sizes[1], 'length', 3)} {self.pin_limits}"
        return Verdict(
            self.name, self.kind, min(tight, loose) >= -SAME, words, value=value, limit=limit, sense=sense, dimension="length",
            error=SAME, parts=(self.bore.placed, self.pin.placed), basis=basis,
        )  # fmt: skip
