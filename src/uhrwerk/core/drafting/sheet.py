"""What a sheet consists of: strokes, texts and dimensions, in millimetres on paper from its lower left corner.

Sizes: ISO 5457, table 1. Scales: ISO 5455, table 1. Lines: ISO 128-2. Arrows and texts of dimensions: ISO 129-1. From memory.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from math import atan2, cos, hypot, pi, sin
from typing import Any, Literal

#: width and height of trimmed sheets, landscape but for A4, which ISO 5457 takes upright
SIZES = {"A4": (210.0, 297.0), "A3": (420.0, 297.0), "A2": (594.0, 420.0), "A1": (841.0, 594.0)}
#: of paper to the thing itself
SCALES = {"10:1": 10.0, "5:1": 5.0, "2:1": 2.0, "1:1": 1.0, "1:2": 0.5, "1:5": 0.2, "1:10": 0.1, "1:20": 0.05, "1:50": 0.02, "1:100": 0.01}  # fmt: skip
#: width of lines on paper, mm
WIDE, THIN = 0.5, 0.25
#: height of the texts of dimensions, and length of arrows
TEXT, ARROW = 3.5, 3.0
#: an inch, mm
INCH = 25.4
#: mean width of a letter, for one of the text's height: what is kept free for a text
LETTER = 0.62

Layer = Literal["visible", "hidden", "centre", "thin", "frame"]


@dataclass(frozen=True)
class Stroke:
    """A curve on a layer, as the kernel's: ("line", x0, y0, x1, y1), ("arc", x, y, radius, from, by), ("curve", [[x, y], ...])."""

    layer: Layer
    curve: tuple[Any, ...]


@dataclass(frozen=True)
class Label:
    """A text with its foot at (x, y); `anchor` is where along it that is; `angle` in degrees."""

    x: float
    y: float
    text: str
    height: float = TEXT
    anchor: Literal["left", "middle", "right"] = "left"
    angle: float = 0.0

    def box(self) -> tuple[float, float, float, float]:
        """The room that it takes: least and greatest x and y."""
        wide = LETTER * self.height * len(self.text)
        before = {"left": 0.0, "middle": wide / 2, "right": wide}[self.anchor]
        if self.angle:
            return self.x - self.height, self.y - before, self.x, self.y + wide - before
        return self.x - before, self.y, self.x - before + wide, self.y + self.height


@dataclass(frozen=True)
class SizeId:
    """Which size of a sheet: of which view, of what kind, which of those of its kind there, from the smallest on. One between two datums
    has its own `key`."""

    view: str
    kind: Literal["across", "upright", "diameter", "radius"]
    place: int = 0
    among: int = 0
    own: str = ""

    @property
    def key(self) -> str:
        return f"own_{self.own}" if self.own else f"{self.view}_{self.kind}_{self.place}"


@dataclass(frozen=True)
class Linear:
    """A distance along x (or along y, if `upright`) of two points on paper, its line at the coordinate `at`; `value` is what is
    measured, mm of the thing itself."""

    a: tuple[float, float]
    b: tuple[float, float]
    at: float
    upright: bool
    value: float
    before: str = ""
    inches: bool = False
    id: SizeId | None = None
    after: str = ""

    @property
    def text(self) -> str:
        return " ".join(t for t in (self.before + number(self.value, self.inches), self.after) if t)

    def moved(self, right: float, up: float) -> Linear:
        """With its line elsewhere, by mm on paper; what lies along the line says nothing."""
        return replace(self, at=self.at + (right if self.upright else up))

    def label(self) -> Label:
        if self.upright:
            return Label(self.at - 0.8, (self.a[1] + self.b[1]) / 2, self.text, anchor="middle", angle=90.0)
        return Label((self.a[0] + self.b[0]) / 2, self.at + 0.8, self.text, anchor="middle")


@dataclass(frozen=True)
class Round:
    """The diameter or radius of an arc on paper, with a leader from its line, in the direction `angle` (rad), to the text at `to`."""

    centre: tuple[float, float]
    radius: float
    angle: float
    to: tuple[float, float]
    value: float
    diameter: bool
    count: int = 1
    inches: bool = False
    id: SizeId | None = None
    after: str = ""
    thread: str = ""  # its size, which stands for that of the circle

    @property
    def text(self) -> str:
        times = f"{self.count}\u00d7 " if self.count > 1 else ""
        size = times + (self.thread or ("\u2300" if self.diameter else "R") + number(self.value, self.inches))
        return f"{size} {self.after}" if self.after else size

    def moved(self, right: float, up: float) -> Round:
        """With its text elsewhere, by mm on paper; the leader of a whole circle turns with it."""
        to = (self.to[0] + right, self.to[1] + up)
        turned = atan2(to[1] - self.centre[1], to[0] - self.centre[0]) if self.diameter else self.angle
        return replace(self, to=to, angle=turned)

    @property
    def foot(self) -> tuple[float, float]:
        """Where the leader meets the arc."""
        return self.centre[0] + self.radius * cos(self.angle), self.centre[1] + self.radius * sin(self.angle)

    def label(self) -> Label:
        return Label(self.to[0] + 0.8, self.to[1] + 0.6, self.text)


Dimension = Linear | Round


@dataclass(frozen=True)
class Sign:
    """Something drawn that can be moved as a whole: its lines, and a text; `key` tells which setting it is of."""

    key: str
    words: str
    strokes: tuple[Stroke, ...]
    label: Label


@dataclass(frozen=True)
class Sheet:
    size: tuple[float, float]
    scale: float
    title: str
    inches: bool = False  # what the texts of dimensions say
    strokes: list[Stroke] = field(default_factory=list)
    labels: list[Label] = field(default_factory=list)
    dimensions: list[Dimension] = field(default_factory=list)
    signs: list[Sign] = field(default_factory=list)
    hidden: list[Dimension] = field(default_factory=list)  # that would stand here, were they not hidden
    unclear: list[str] = field(default_factory=list)  # keys of settings that fit no size, or two
    views: dict[str, tuple[float, float, float]] = field(
        default_factory=dict
    )  # name: mm on paper for a metre, place of the origin

    def texts(self) -> list[Label]:
        return [*self.labels, *(d.label() for d in self.dimensions), *(s.label for s in self.signs)]

    def with_signs(self) -> Sheet:
        """The same with the lines and texts of its signs among all others."""
        strokes = [*self.strokes, *(stroke for s in self.signs for stroke in s.strokes)]
        return replace(self, strokes=strokes, labels=[*self.labels, *(s.label for s in self.signs)], signs=[])


def number(value: float, inches: bool = False) -> str:
    """A length, mm, as it stands on a drawing: as exact as a micrometre, or as a tenth of a thousandth of an inch, without zeros at
    its end.

    >>> number(12.5), number(8.0), number(0.03125), number(7.9375, inches=True)
    ('12.5', '8', '0.031', '0.3125')
    """
    text = f"{value / INCH:.4f}" if inches else f"{value:.3f}"
    return text.rstrip("0").rstrip(".")


def lengths(inches: bool) -> str:
    """In which unit a sheet's lengths are, and how they are rounded."""
    return "inches, rounded to 0.0001" if inches else "mm, rounded to 0.001"


def dimension_strokes(d: Dimension) -> tuple[list[tuple[float, float, float, float]], list[list[tuple[float, float]]]]:
    """A dimension as thin lines (x0, y0, x1, y1) and arrows, three corners each."""
    if isinstance(d, Round):
        foot, (x, y) = d.foot, d.to
        lines = [(*foot, x, y), (x, y, x + LETTER * TEXT * len(d.text) + 1.6, y)]
        return lines, [arrow(foot, (x - foot[0], y - foot[1]))]
    k = 1 if d.upright else 0
    ends = [(d.at, p[1]) if d.upright else (p[0], d.at) for p in (d.a, d.b)]
    lines = [(*ends[0], *ends[1])]
    for p, end in zip((d.a, d.b), ends, strict=True):
        way = 1.0 if end[1 - k] >= p[1 - k] else -1.0
        gap, over = 0.8 * way, 1.6 * way
        if d.upright:
            lines.append((p[0] + gap, p[1], end[0] + over, end[1]))
        else:
            lines.append((p[0], p[1] + gap, end[0], end[1] + over))
    apart = abs(ends[1][k] - ends[0][k])
    inward = 1.0 if apart > 3 * ARROW else -1.0  # from outside where there is no room
    sign = inward if ends[1][k] >= ends[0][k] else -inward
    to = (0.0, sign) if d.upright else (sign, 0.0)
    return lines, [arrow(ends[0], to), arrow(ends[1], (-to[0], -to[1]))]


def arrow(tip: tuple[float, float], toward: tuple[float, float]) -> list[tuple[float, float]]:
    """A filled arrow with its tip at a place, its body lying in a direction; 15 degrees wide."""
    length = hypot(*toward) or 1.0
    u, v = toward[0] / length * ARROW, toward[1] / length * ARROW
    w = sin(pi / 24)
    return [tip, (tip[0] + u - w * v, tip[1] + v + w * u), (tip[0] + u + w * v, tip[1] + v - w * u)]
