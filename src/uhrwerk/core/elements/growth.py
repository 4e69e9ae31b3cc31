"""What may grow on a datum: parts sized from it and joined to it, as each element states for itself.

A ground is the datum pointed at; a growth is what goes there: pieces one after the other, each held by a joint to the ground,
to an earlier piece, or to a new bore in the frame's plate.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from uhrwerk.core.field import Model, Numbers
from uhrwerk.core.field.dimension import WHOLE
from uhrwerk.core.quantity import FormulaError, Scope, length_text
from uhrwerk.core.solids import Datum
from uhrwerk.core.steps import BuildStep

#: by how much what turns in a bore is made smaller, m (common practice for small running fits in printed and milled parts)
PLAY = 1e-4
#: between two parts that turn past one another along an axis, m
GAP = 1e-3


@dataclass(frozen=True)
class Ground:
    """The datum pointed at: on which placed part, of which element, how wide in words; `height` is where it lies over the
    frame's plate, m, at `x` and `y` of it, and `thickness` that of the plate (0 where the frame is none); `under` names the
    plate's bore on the same axis, if there is one. `values` are numbers the designer gave; `taken`: something is joined there
    already."""

    placed: str
    name: str
    datum: Datum
    stated: Model
    sizes: Numbers
    unit: str
    diameter: str = ""
    height: float = 0.0
    thickness: float = 0.0
    values: Mapping[str, str] = field(default_factory=dict)
    taken: bool = False
    x: float = 0.0
    y: float = 0.0
    under: str = ""
    face_name: str = ""  # of the face pointed at, by its step; its middle on its own plane and its size, m
    face_x: float = 0.0
    face_y: float = 0.0
    face_across: float = 0.0
    scope: Scope = field(default_factory=lambda: Scope({}))

    def value(self, text: str, dimension: str) -> float:
        """The SI value of a number that was asked for, which may name parameters."""
        return self.scope.value(text, dimension)

    def whole(self, name: str, usual: str) -> tuple[str, int]:
        """A whole number that is asked for: as it is written, and its value. FormulaError where it gives none."""
        text, what = self.ask(name, usual), name.replace("_", " ")
        try:
            value = self.scope.value(text, "number")
        except FormulaError as error:
            raise FormulaError(f"{what}: {error}") from error
        if abs(value - round(value)) > WHOLE:
            raise FormulaError(f"{what} must be a whole number, not {value:g}")
        return text, round(value)

    def text(self, si: float) -> str:
        """A length as a formula in the unit of the mechanism."""
        return length_text(si, self.unit)

    def ask(self, name: str, text: str) -> str:
        return self.values.get(name) or text

    @property
    def bore(self) -> bool:
        """A bore in which nothing sits yet."""
        return self.datum.kind == "axis" and self.datum.side == "bore" and not self.taken

    @property
    def in_plate(self) -> bool:
        """Such a bore of the frame's plate."""
        return self.bore and bool(self.thickness) and self.sizes.kind == "frame_plate"

    @property
    def pin(self) -> bool:
        return self.datum.kind == "axis" and self.datum.side == "pin"

    @property
    def face(self) -> bool:
        return self.datum.kind == "plane"

    @property
    def depth(self) -> float:
        """How far the bore or pin reaches, m."""
        return abs(self.datum.length)

    @property
    def low(self) -> float:
        """Where the lower end of bore or pin lies along the datum's axis, m."""
        return self.datum.ends[0]

    @property
    def upper(self) -> float:
        return self.low + self.depth

    def below_upper(self, reach: float) -> str:
        """The offset at which what reaches so far up, m, ends at the upper end, or begins at the lower one if it is longer."""
        return self.text(max(self.low, self.upper - reach))

    @property
    def along_z(self) -> bool:
        """Whether the axis is the part's own z."""
        return bool(abs(self.datum.z[2]) > 1 - 1e-9 and abs(self.datum.origin[:2]).max() < 1e-9)

    @property
    def upright(self) -> bool:
        """Whether the axis runs along the part's own z, wherever it lies."""
        return bool(abs(self.datum.z[2]) > 1 - 1e-9)

    @property
    def down(self) -> str:
        """The offset at which a part that starts at its own origin begins at the far end of a bore that reaches down."""
        return self.text(self.low)

    @property
    def running(self) -> str:
        """The diameter that runs in this bore, or on this pin."""
        play = self.text(PLAY)
        wide = self.diameter or self.text(2 * self.datum.radius)
        return f"{wide} - {play}" if self.bore else f"{wide} + {play}"


@dataclass(frozen=True)
class GrownPart:
    """A part: on what it sits ("" the ground, "frame" the new bore, "under" the plate's bore on the same axis, or the number
    of an earlier piece) and at which datum of that, by which of its own, held how. With a `place` it only stands there, x, y
    and z of the plate, m, for ties to hold it."""

    name: str
    element: Model
    joint: Mapping[str, str | bool]
    by: str = "axis"
    on: str = ""
    at: str = "axis"
    turn: float = 0.0  # rad, by which it starts turned about the axis
    place: tuple[float, float, float] | None = None


@dataclass(frozen=True)
class Tie:
    """A joint, relation or pair between two pieces, or a piece and the ground, or the plate ("frame"; its new bore where no datum
    is named): (piece, datum) each."""

    a: tuple[str, str]
    b: tuple[str, str]
    joint: Mapping[str, str | bool] | None = None
    pair: str = ""
    relation: Mapping[str, str] | None = None
    more: Mapping[str, str] = field(default_factory=dict)  # numbers of the pair


@dataclass(frozen=True)
class Growth:
    """What may grow: its name, its pieces, ties that close a loop, numbers that are asked. `away` is where a new bore is made
    in the frame's plate: so far from the ground, m (`apart` is the formula of that, where there is one), with this diameter, in the
    `direction` in the plate that was asked for, rad; `straight` along x of the part that has the ground, as a
    loop asks that closes on it, else where there is room. Pieces in it count their turn from that direction. `done` are build steps to the part that has the ground, such as
    a ring's groove: `$ring_groove` stands for the id of such a step in a piece's `at`; `shared` numbers become parameters, by
    which steps and pieces name them: `$at` stands for that of `at`."""

    title: str
    pieces: tuple[GrownPart, ...]
    ties: tuple[Tie, ...] = ()
    asks: Mapping[str, str] = field(default_factory=dict)
    away: float = 0.0
    wide: str = ""
    straight: bool = False
    done: tuple[BuildStep, ...] = ()
    shared: Mapping[str, str] = field(default_factory=dict)
    apart: str = ""
    direction: float | None = None


__all__ = ["GAP", "PLAY", "Ground", "GrownPart", "Growth", "Tie"]
