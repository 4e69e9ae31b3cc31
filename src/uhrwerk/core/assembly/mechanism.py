"""A mechanism: the document's kinematics with numbers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from uhrwerk.core.document import Document
from uhrwerk.core.elements import spur_gear
from uhrwerk.core.elements.involute import Tooth
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row, Rows
from uhrwerk.core.field import numbers
from uhrwerk.core.joints import At, JointFrame, ResolvedJoint, axes
from uhrwerk.core.part.design import element_of
from uhrwerk.core.solids import Datum


@dataclass(frozen=True)
class Problem:
    """Something that stands in the way of an answer, in the designer's words; `path` leads to it in the document."""

    path: str
    words: str


@dataclass(frozen=True)
class Link:
    """Placed parts that move as one; `local` is the pose of each in the link's frame."""

    parts: tuple[str, ...]
    local: Mapping[str, Array]


@dataclass(frozen=True)
class Aim:
    """Where a joint or relation wants b's frame: z along a's z, or along its image behind the plane that `mirror` has on
    a link; and the origins together where `meet`. `turned`: both x point the same way, too."""

    owner: str
    a: int
    frame_a: Array
    b: int
    frame_b: Array
    aligned: bool
    meet: bool
    mirror: tuple[int, Array] | None = None
    turned: bool = False

    def across(self, pose: Array) -> tuple[Array, Array]:
        """x of a and x of b in the world."""
        xa, xb = (poses.rotate(pose[k, 3:], axes(f)[0]) for k, f in ((self.a, self.frame_a), (self.b, self.frame_b)))
        return xa, xb

    def holds_side(self, pose: Array) -> bool:
        """Whether both z point the same way, and both x where these are held, too: the equations alone accept the opposite."""
        za, zb = self.directions(pose)
        xa, xb = self.across(pose)
        return not (self.aligned and za @ zb < 0) and not (self.turned and xa @ xb < 0)

    def directions(self, pose: Array) -> tuple[Array, Array]:
        """z of a, as b should have it, and z of b, in the world."""
        za, zb = (poses.rotate(pose[k, 3:], axes(f)[2]) for k, f in ((self.a, self.frame_a), (self.b, self.frame_b)))
        if self.mirror is not None:
            link, frame = self.mirror
            n = poses.rotate(pose[link, 3:], axes(frame)[2])
            za = za - 2 * (za @ n) * n
        return za, zb


@dataclass
class Mechanism:
    """The document's kinematics with numbers: links (the frame first), datums, and the rows of each joint, pair, driver.

    `document` has every copy written out; `stated` is the one that the designer wrote.
    """

    document: Document
    links: list[Link]
    link_of: dict[str, int]
    rows: list[Row]
    drives: list[Row]
    names: dict[str, str]  # path of a joint, relation, pair or driver -> its name
    datums: dict[str, dict[str, Datum]]  # placed part -> its datums
    start: Array  # (L, 7)
    reach: float
    stated: Document
    starts: dict[str, Array]
    loose: list[str] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    remarks: list[Problem] = field(default_factory=list)
    joints: dict[str, ResolvedJoint] = field(default_factory=dict)  # joints, and those that relations make, by id
    aims: list[Aim] = field(default_factory=list)

    def system(self, drives: bool = True, without: frozenset[str] = frozenset()) -> Rows:
        chosen = [r for r in self.rows + (self.drives if drives else []) if r.owner not in without]
        return Rows(chosen, len(self.links), self.reach)

    def scaled(self, pose: Array) -> Array:
        return np.asarray(pose * np.array([1 / self.reach] * 3 + [1.0] * 4))

    def metres(self, pose: Array) -> Array:
        return np.asarray(pose * np.array([self.reach] * 3 + [1.0] * 4))

    def part_pose(self, placed: str, link_pose: Array) -> Array:
        """Pose (..., 7) of a placed part, from link poses (..., L, 7)."""
        link = self.link_of[placed]
        return poses.compose(link_pose[..., link, :], np.asarray(self.links[link].local[placed]))

    def datum(self, at: At) -> Datum:
        """The datum at an end of a joint, moved where that lies beside it."""
        return at.beside(self.datums[at.placed][at.datum], self.document.scope())

    def place(self, at: At) -> JointFrame:
        """A datum with its frame on the link that carries its part."""
        link, d = self.link_of[at.placed], self.datum(at)
        return JointFrame(
            link, poses.compose(np.asarray(self.links[link].local[at.placed]), datum_frame(d)), d, at.placed
        )

    def coordinates(self) -> list[tuple[str, str]]:
        """Every coordinate as (joint, name), the leading one of each joint first."""
        return [(i, name) for i, h in self.joints.items() for name in h.coordinates]


def datum_frame(datum: Datum) -> Array:
    return poses.from_axes(datum.origin, datum.x, datum.z)


def teeth_of(document: Document, placed: str) -> Tooth:
    """The tooth form of a placed gear."""
    return spur_gear.tooth(numbers(element_of(document, placed), document.scope()))
