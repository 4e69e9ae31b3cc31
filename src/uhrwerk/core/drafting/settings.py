"""What a designer changed of a sheet: sizes that are hidden, moved or say more, and sizes of their own; and marks of what is new."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from uhrwerk.core.drafting.sheet import LETTER, TEXT, Dimension, Label, SizeId, Stroke, number
from uhrwerk.core.drafting.surface_texture import TextureAt
from uhrwerk.core.quantity.size_limits import CLASS, deviations

#: how near two sizes are taken for one, mm
SAME = 1e-6


@dataclass(frozen=True)
class Setting:
    """How a size stands: which one, what it measured then (mm), and by how much it is moved (mm on paper)."""

    id: SizeId
    value: float
    hidden: bool = False
    right: float = 0.0
    up: float = 0.0
    after: str = ""


@dataclass(frozen=True)
class OwnDistance:
    """A size between two places of a view, (2,) m there; moved by mm on paper."""

    id: SizeId
    a: tuple[float, float]
    b: tuple[float, float]
    right: float = 0.0
    up: float = 0.0
    after: str = ""


@dataclass(frozen=True)
class SheetSettings:
    """All that is changed of a sheet; `before`: what each of its sizes measured at an earlier revision, mm, by its key; None where it is
    not compared."""

    section: bool = True
    holes: bool = False  # in a table
    note: str = ""
    sizes: Mapping[str, Setting] = field(default_factory=dict)
    own: tuple[OwnDistance, ...] = ()
    texture: str = ""  # Ra of all faces that bear no sign, um; none where it is empty
    textures: tuple[TextureAt, ...] = ()
    before: Mapping[str, float] | None = None
    since: str = ""

    @property
    def says_more(self) -> bool:
        """Whether some sizes have a text after their value."""
        return any(s.after for s in self.sizes.values()) or any(s.after for s in self.own)


def applied(
    dimensions: list[Dimension], settings: Mapping[str, Setting]
) -> tuple[list[Dimension], list[Dimension], list[str]]:
    """Sizes as they are set; those that are hidden; and keys of settings that no size fits, or two of them.

    A setting fits the size in its place if there are as many as there were, and the one that measures what it measured. Where these are
    two, which one is meant is not known: both stay as they are.
    """
    shown, hidden, unclear = list(dimensions), list[Dimension](), list[str]()
    for key, setting in settings.items():
        target = _meant(dimensions, setting)
        if target is None:
            unclear.append(key)
            continue
        at = shown.index(target) if target in shown else None
        if at is None:
            unclear.append(key)
        elif setting.hidden:
            hidden.append(shown.pop(at))
        else:
            words = with_limits(setting.after, target.value, target.inches)
            shown[at] = replace(target.moved(setting.right, setting.up), after=words)
    return shown, hidden, unclear


def with_limits(after: str, size: float, inches: bool) -> str:
    """A tolerance class of ISO 286 with the limits that it gives a size, mm; any other text as it is, and a class that the tables do not
    know.

    >>> with_limits("H7", 6.0, False), with_limits("g6", 6.0, False), with_limits("deburred", 6.0, False)
    ('H7 (+0.012 / 0)', 'g6 (-0.004 / -0.012)', 'deburred')
    """
    if not CLASS.fullmatch(after.strip()):
        return after
    try:
        low, high = deviations(after, size / 1e3)
    except ValueError:
        return after
    return f"{after} ({_signed(high, inches)} / {_signed(low, inches)})"


def _signed(deviation: float, inches: bool) -> str:
    text = number(abs(deviation) * 1e3, inches)
    return text if float(text) == 0 else f"{'+' if deviation > 0 else '-'}{text}"


def _meant(dimensions: list[Dimension], setting: Setting) -> Dimension | None:
    alike = [d for d in dimensions if d.id and (d.id.view, d.id.kind) == (setting.id.view, setting.id.kind)]
    placed = [d for d in alike if d.id and (d.id.place, d.id.among) == (setting.id.place, setting.id.among)]
    valued = [d for d in alike if abs(d.value - setting.value) < SAME]
    if placed and valued:
        return placed[0] if placed[0] in valued else None
    fitting = placed or valued
    return fitting[0] if len(fitting) == 1 else None


def marks(dimensions: list[Dimension], before: Mapping[str, float], sign: str) -> tuple[list[Stroke], list[Label]]:
    """A triangle with a sign in it beside the text of each size that measures something else than before."""
    strokes, labels = list[Stroke](), list[Label]()
    for d in dimensions:
        if d.id is None or abs(before.get(d.id.key, float("nan")) - d.value) < SAME:
            continue
        label = d.label()
        wide = LETTER * TEXT * len(d.text)
        along = {"left": wide, "middle": wide / 2, "right": 0.0}[label.anchor] + 3.5
        x, y = (label.x - 1.7, label.y + along) if label.angle else (label.x + along, label.y + 1.2)
        corners = [(x - 2.9, y - 1.7), (x + 2.9, y - 1.7), (x, y + 3.3)]
        for (a, b), (c, e) in zip(corners, [*corners[1:], corners[0]], strict=True):
            strokes.append(Stroke("thin", ("line", a, b, c, e)))
        labels.append(Label(x, y - 1.1, sign, 1.8, "middle"))
    return strokes, labels
