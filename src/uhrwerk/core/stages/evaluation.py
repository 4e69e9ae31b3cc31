"""An evaluation: everything computed from one document, stage by stage."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, TypeVar

from uhrwerk.core.assembly import Mechanism, Mobility, Problem
from uhrwerk.core.assembly.mass_properties import MassProperties
from uhrwerk.core.document import Document
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.motion import Coordinate, Motion
from uhrwerk.core.proximity.refinement import Refinement
from uhrwerk.core.proximity.sweep import PairResult, Sweep
from uhrwerk.core.solids import Solid
from uhrwerk.core.stages.verdict import Verdict

T = TypeVar("T")


@dataclass
class Evaluation:
    """Everything computed from one document. Stages that could not be reached are None, and `problems` says why.

    `document` has every copy written out; `stated` is what the designer wrote.
    """

    document: Document
    stated: Document
    problems: list[Problem] = field(default_factory=list)
    mechanism: Mechanism | None = None
    solids: dict[str, Solid] = field(default_factory=dict)  # by placed part
    solid_keys: dict[str, str] = field(default_factory=dict)
    mobility: Mobility | None = None
    pose: Array | None = None
    motion: Motion | None = None
    coordinates: dict[str, Coordinate] = field(default_factory=dict)
    findings: list[PairResult] = field(default_factory=list)
    known_apart: int = 0  # pairs of bodies whose boxes never meet
    masses: dict[str, MassProperties] = field(default_factory=dict)  # whole, moving, groups
    part_mass: dict[str, float] = field(default_factory=dict)
    verdicts: dict[str, Verdict] = field(default_factory=dict)
    conflict: list[str] = field(default_factory=list)
    sweep: Sweep | None = None
    refinement: Refinement | None = None  # looks at a pair again where a verdict hangs on it
    dead_point: Problem | None = None  # among the problems, where the drive comes to its end
    seconds: float = 0.0
    proved: bool = True  # False while a number is turned: see `Evaluator.glance`
    memo: dict[str, Any] = field(default_factory=dict, repr=False)  # what was computed already, by its name
    report: Callable[[str], None] = field(
        default=lambda words: None, repr=False
    )  # hears, while it is judged, what is looked at

    def once(self, name: str, compute: Callable[[], T]) -> T:
        """What is computed, once for this evaluation."""
        if name not in self.memo:
            self.memo[name] = compute()
        result: T = self.memo[name]
        return result

    @property
    def holds(self) -> bool | None:
        """True: every requirement holds; False: some fail; None: some have no answer."""
        answers = [v.holds for v in self.verdicts.values()]
        return None if None in answers or self.motion is None else all(answers)

    @property
    def whole_cycle(self) -> bool:
        """Whether the motion was followed to the end of its cycle."""
        return self.motion is not None and self.motion.stop is None

    def part_poses(self, at: Array) -> dict[str, Array]:
        """Pose of every placed part from link poses (L, 7)."""
        assert self.mechanism is not None
        return {p: self.mechanism.part_pose(p, at) for p in self.document.placed}

    def coordinate(self, joint: str, turning: bool | None = None) -> Coordinate | None:
        """The coordinate of a joint that a requirement speaks of: the one that moves most."""
        own = [c for c in self.coordinates.values() if c.joint == joint and turning in (None, c.turning)]
        return max(own, key=lambda c: float(c.value.max() - c.value.min()), default=None)

    def named(self, name: str) -> str:
        """A body in the designer's words: the placed part, and the body where the part has several."""
        placed, body = name.split("/")
        part = self.document.placed[placed].name
        return f"{part} ({body.replace('_', ' ')})" if len(self.solids[placed].bodies) > 1 else part
