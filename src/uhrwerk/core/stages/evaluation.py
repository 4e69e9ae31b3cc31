"""What is known of a document, stage by stage: compiled, moved, built, swept, judged.

Each stage is a complete, frozen value. One that could not be reached says why: `Stopped` in the place of `Moved`, no `Swept`.
An `Evaluation` holds the stages that were reached.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

from uhrwerk.core.assembly import Mechanism, Mobility, Problem
from uhrwerk.core.assembly.mass_properties import MassProperties
from uhrwerk.core.context import Context
from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.motion import Coordinate, Motion
from uhrwerk.core.part import part_datums
from uhrwerk.core.printing import Lying
from uhrwerk.core.proximity.refinement import Refinement
from uhrwerk.core.proximity.sweep import PairResult, Sweep
from uhrwerk.core.solids import Solid
from uhrwerk.core.stages.verdict import Verdict

T = TypeVar("T")


class NotReached(RuntimeError):
    """An evaluation did not come to the stage that is needed; the message says why."""


@dataclass(frozen=True, repr=False)
class Compiled:
    """What the designer wrote, and its mechanism: copies written out, joints as equations, and what cannot be used."""

    stated: Document
    mechanism: Mechanism
    context: Context


@dataclass(frozen=True, repr=False)
class Moved:
    """The assembled pose (L, 7), what is free there, and the motion over the cycle; `problems` are those of the motion, the dead
    point among them where the drive comes to one."""

    pose: Array
    mobility: Mobility
    motion: Motion
    coordinates: Mapping[str, Coordinate]
    sweep: Sweep
    problems: tuple[Problem, ...] = ()
    dead_point: Problem | None = None


@dataclass(frozen=True)
class Stopped:
    """Why there is no motion: joints that contradict one another (`conflict`), a cycle that cannot be followed, or no part yet.
    Where the joints alone hold, their pose and what is free there."""

    problems: tuple[Problem, ...] = ()
    conflict: tuple[str, ...] = ()
    pose: Array | None = None
    mobility: Mobility | None = None


@dataclass(frozen=True, repr=False)
class Built:
    """Solids by placed part, each with the key of its recipe; masses of the whole, of what moves and of groups, and of each placed
    part, where all solids are as stated and there is a motion."""

    solids: Mapping[str, Solid] = field(default_factory=dict)
    solid_keys: Mapping[str, str] = field(default_factory=dict)
    problems: tuple[Problem, ...] = ()
    masses: Mapping[str, MassProperties] = field(default_factory=dict)
    part_mass: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, repr=False)
class Swept:
    """What pairs of bodies do over the cycle, and how many pairs never come near one another."""

    findings: tuple[PairResult, ...]
    known_apart: int = 0


@dataclass(frozen=True, repr=False)
class Evaluation:
    """The stages that were reached, and the verdicts. `pairs` looks at single pairs of bodies, once there are solids and a motion.
    `proved` is False while a number is being varied (see `Evaluator.glance`); `report` hears what is looked at while it is judged."""

    compiled: Compiled
    movement: Moved | Stopped = field(default_factory=Stopped)
    built: Built = field(default_factory=Built)
    pairs: Refinement | None = None
    swept: Swept | None = None
    verdicts: Mapping[str, Verdict] = field(default_factory=dict)
    seconds: float = 0.0
    proved: bool = True
    report: Callable[[str], None] = field(default=lambda words: None, repr=False)
    memo: dict[str, Any] = field(default_factory=dict, repr=False)  # what was computed already, by its name

    def __repr__(self) -> str:
        answers = [v.holds for v in self.verdicts.values()]
        held = f"{answers.count(True)} of {len(answers)} requirements hold" if answers else "no requirements"
        return f"<{type(self).__name__} of {self.stated.name!r}: {held}>"

    @property
    def document(self) -> Document:
        """The document with every copy written out."""
        return self.compiled.mechanism.document

    @property
    def stated(self) -> Document:
        """What the designer wrote."""
        return self.compiled.stated

    @property
    def mechanism(self) -> Mechanism:
        return self.compiled.mechanism

    @property
    def context(self) -> Context:
        """What this was computed with."""
        return self.compiled.context

    @property
    def problems(self) -> list[Problem]:
        return [*self.mechanism.problems, *self.movement.problems, *self.built.problems]

    @property
    def moved(self) -> Moved:
        """The motion. NotReached where there is none."""
        if isinstance(self.movement, Moved):
            return self.movement
        raise NotReached(self.problems[0].words if self.problems else "nothing moves yet")

    @property
    def motion(self) -> Motion | None:
        return self.movement.motion if isinstance(self.movement, Moved) else None

    @property
    def coordinates(self) -> Mapping[str, Coordinate]:
        return self.movement.coordinates if isinstance(self.movement, Moved) else {}

    @property
    def dead_point(self) -> Problem | None:
        return self.movement.dead_point if isinstance(self.movement, Moved) else None

    @property
    def conflict(self) -> list[str]:
        return list(self.movement.conflict) if isinstance(self.movement, Stopped) else []

    @property
    def pose(self) -> Array | None:
        return self.movement.pose

    @property
    def mobility(self) -> Mobility | None:
        return self.movement.mobility

    @property
    def solids(self) -> Mapping[str, Solid]:
        return self.built.solids

    @property
    def solid_keys(self) -> Mapping[str, str]:
        return self.built.solid_keys

    @property
    def masses(self) -> Mapping[str, MassProperties]:
        return self.built.masses

    @property
    def part_mass(self) -> Mapping[str, float]:
        return self.built.part_mass

    @property
    def findings(self) -> tuple[PairResult, ...]:
        return () if self.swept is None else self.swept.findings

    @property
    def refinement(self) -> Refinement:
        """What looks at single pairs. NotReached where there are no solids, or no motion."""
        if self.pairs is None:
            raise NotReached("no pair of bodies was looked at")
        return self.pairs

    def once(self, name: str, compute: Callable[[], T]) -> T:
        """What is computed, once for this evaluation."""
        if name not in self.memo:
            self.memo[name] = compute()
        result: T = self.memo[name]
        return result

    @property
    def holds(self) -> bool | None:
        """True: every requirement holds; False: some fail; None: some are undecided."""
        answers = [v.holds for v in self.verdicts.values()]
        return None if None in answers or self.motion is None else all(answers)

    @property
    def whole_cycle(self) -> bool:
        """Whether the motion was followed to the end of its cycle."""
        return self.motion is not None and self.motion.stop is None

    def part_poses(self, at: Array) -> dict[str, Array]:
        """Pose of every placed part from link poses (L, 7)."""
        return {p: self.mechanism.part_pose(p, at) for p in self.document.placed}

    def lying(self, placed: str, pose: Array) -> list[Lying]:
        """The bodies of a placed part at a pose in the world, for a bed under them."""

        def reach(direction: Array) -> float:
            own = self.document.placed[placed]
            recipe = part_datums.recipe(self.document, own.part, own.mirrored)[0]
            return float(self.context.kernel_pool.call("reach", recipe, pose.tolist(), direction.tolist()))

        bodies = self.solids[placed].bodies.values()
        return [
            Lying(poses.place(pose, b.vertices), b.deviation if any(f.kind != "plane" for f in b.faces) else 0.0, reach)
            for b in bodies
        ]

    def coordinate(self, joint: str, turning: bool | None = None) -> Coordinate | None:
        """The coordinate of a joint that a requirement speaks of: the one that moves most."""
        own = [c for c in self.coordinates.values() if c.joint == joint and turning in (None, c.turning)]
        return max(own, key=lambda c: float(c.value.max() - c.value.min()), default=None)

    def named(self, name: str) -> str:
        """A body in the designer's words: the placed part, and the body where the part has several."""
        placed, body = name.split("/")
        part = self.document.placed[placed].name
        return f"{part} ({body.replace('_', ' ')})" if len(self.solids[placed].bodies) > 1 else part
