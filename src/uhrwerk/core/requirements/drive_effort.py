"""Effort of a drive: the torque or force that it supplies has an upper limit."""

from __future__ import annotations

from collections.abc import Iterable
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.document import Document
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import DriverId, Formula
from uhrwerk.core.forces.inverse_dynamics import effort
from uhrwerk.core.quantity import FormulaError
from uhrwerk.core.requirements.bounded_force import BoundedForce, of_joint
from uhrwerk.core.stages.evaluation import Evaluation


class DriveEffort(BoundedForce):
    """A drive never has to bring more than so much, nor to hold back more: torque where it turns, force where it slides."""

    title: ClassVar[str] = "Effort of a drive"

    kind: Literal["drive_effort"] = "drive_effort"
    driver: DriverId
    at_most: Formula = Field(default="1 N m", title="Torque or force at most")

    def _dimension(self, d: Document) -> str:
        return "torque" if d.drivers[self.driver].coordinate == "turn" else "force"

    def measure(self, e: Evaluation) -> str:
        return self._dimension(e.document)

    def faults(self, document: Document) -> Iterable[tuple[str, str]]:
        if self.driver not in document.drivers:
            return
        try:
            limit = document.scope().value(self.at_most, self._dimension(document))
        except FormulaError as error:
            yield "at_most", f"{self.at_most!r} {error}"
            return
        if limit < 0:
            yield "at_most", "must not be below zero"

    def sizes(self, e: Evaluation, times: Array) -> Array:
        return np.abs(effort(e, self.driver, times))

    def parts_of(self, e: Evaluation) -> tuple[str, ...]:
        return of_joint(e, e.document.drivers[self.driver].joint)
