"""Drives of all kinds: where the joint stands, how far and how fast it goes at most, by the law as it is written.

The witness works out the same formula with numpy at some hundred thousand moments, more of them where it is short; a programme by its
laws (VDI 2143, from memory); a table by splines of another kind (B-splines by collocation). What is told of the greatest and the
least must lie within its own error of these.
"""

from __future__ import annotations

from collections.abc import Callable
from math import pi
from typing import Any

import numpy as np
from scipy.interpolate import make_interp_spline

from tests.reference.attack.followers import LAWS
from tests.reference.attack.rig import Case, Rig
from tests.reference.attack.transmissions import round_pin, wrong_by
from tests.reference.attack.witness import Witness
from uhrwerk import curves, drivers
from uhrwerk.core.curves.evaluated import evaluated_curve
from uhrwerk.core.laws.segment import SlideSegment, TurnSegment

#: moments at which the witness looks, and those beside each short pulse
DENSE, BESIDE = 200_001, 4_001
#: rad and m: a place that is off by more is wrong; parts of the range by which what the witness sees may be off
OFF, COARSE, STEEP = 1e-8, 2e-5, 4e-3
Way = Callable[[np.ndarray], np.ndarray]


class _Law:
    """A formula as text, the same in numpy, and where it is short: its middle and width."""

    def __init__(self, text: str, way: Way, short: list[tuple[float, float]]) -> None:
        self.text, self.way, self.short = text, way, short


def _unit(turning: bool) -> tuple[str, float]:
    return ("deg", pi / 180) if turning else ("mm", 1e-3)


def _wave(r: np.random.Generator, turning: bool, of: str, rate: float) -> _Law:
    """A sine of the time or of another drive; `rate` is what turns that into rad."""
    unit, size = _unit(turning)
    high, times, turn = float(r.uniform(3, 20)), int(r.integers(1, 6)), float(r.uniform(-3, 3))
    inner = f"{times} * other" if of == "other" else f"{times * rate!r} rad * time / (1 s)"
    return _Law(
        f"{high!r} {unit} * sin({inner} + {turn!r} rad)",
        lambda x: high * size * np.sin(times * (x if of == "other" else rate * x) + turn),
        [],
    )


def _pulse(r: np.random.Generator, turning: bool, of: str, reach: float) -> _Law:
    """Up and down again within a short while: with corners, or without."""
    unit, size = _unit(turning)
    high, at, wide = (
        float(r.uniform(3, 20)),
        float(r.uniform(0.05, 0.95) * reach),
        float(reach * 10 ** r.uniform(-3.5, -1)),
    )
    one = "rad" if of == "other" else "s"
    inner = f"({of} - {at!r} {one}) / ({wide!r} {one})"
    if r.random() < 0.5:
        text = f"max(0 {unit}, {high!r} {unit} - {high!r} {unit} * abs({inner}))"
        return _Law(text, lambda x: np.maximum(0, high * size * (1 - np.abs((x - at) / wide))), [(at, wide)])
    return _Law(
        f"{high!r} {unit} / (1 + ({inner}) ^ 2)", lambda x: high * size / (1 + ((x - at) / wide) ** 2), [(at, wide)]
    )


def _formula(r: np.random.Generator, turning: bool, of: str, rate: float, reach: float) -> _Law:
    """Waves and pulses with what makes corners."""
    unit, size = _unit(turning)
    a, b = _wave(r, turning, of, rate), _wave(r, turning, of, rate)
    level = float(r.uniform(-5, 5))
    made = {
        "sum": _Law(f"{a.text} + {b.text}", lambda x: a.way(x) + b.way(x), []),
        "abs": _Law(f"abs({a.text})", lambda x: np.abs(a.way(x)), []),
        "max": _Law(f"max({level!r} {unit}, {a.text})", lambda x: np.maximum(level * size, a.way(x)), []),
        "min": _Law(f"-min({a.text}, {b.text}, {level!r} {unit})", lambda x: -np.minimum(np.minimum(a.way(x), b.way(x)), level * size), []),
        "pulse": _pulse(r, turning, of, reach),
    }  # fmt: skip
    return made[str(r.choice(list(made)))]


def _held(rig: Rig, name: str, turning: bool, over: float) -> tuple[Any, Any]:
    """A pin that turns in the base, or slides along a direction of it; the joint."""
    top, (_, _, up) = rig.axes()
    pin, at = round_pin(rig, name)
    join = rig.d.revolute if turning else rig.d.prismatic
    return pin, join(f"{name} goes", rig.at(top + over * up, up), at)


def _extremes(w: Witness, way: Way, short: list[tuple[float, float]], duration: float) -> list[str]:
    """What is told of the travel and its rate, against the witness; `short` in s."""
    looks = [np.linspace(0, duration, DENSE)]
    for at, wide in short:
        looks.append(np.clip(at + wide * np.linspace(-4, 4, BESIDE), 0, duration))
    t = np.unique(np.concatenate([*looks, *([at] for at, _ in short)]))
    t = t[(t >= 0) & (t <= duration)]
    y = way(t)
    step = np.diff(t)
    rate = (np.diff(y) / step)[step > 1e-9 * duration]
    curve = evaluated_curve(w.e, "way")
    out = []
    between = float(np.abs(rate).max()) * duration / DENSE  # what a corner may lie beyond the nearest look
    for series, seen, slack in (
        ("value", y, COARSE * float(np.abs(y).max()) + between),
        ("rate", rate, STEEP * float(np.abs(rate).max())),
    ):
        told = curve.extremes(series)  # type: ignore[union-attr]
        for side, mine, missed in ((told.low, seen.min(), told.low_missed), (told.high, seen.max(), told.high_missed)):
            if not abs(side - mine) <= missed + slack + 1e-12:
                out.append(f"the {series} reaches {side} ± {missed}, the witness has {mine}")
    return out


def _case(
    rig: Rig, driver: Any, pin: Any, joint: Any, turning: bool, way: Way, short: list[tuple[float, float]]
) -> Case:
    duration = 1.0
    rig.d.drive(driver)
    rig.kinds[f"driver {driver.kind}"] += 1
    rig.d.follow(curves.JointCurve(name="way", joint=joint, of="turn" if turning else "slide"))
    rig.cycle("1 s", frames=int(rig.r.choice([24, 60, 144])))

    def look(w: Witness) -> list[str]:
        axis = w.axis(rig.base, "block.end")
        if turning:
            gone = w.turned(str(pin), rig.base, axis)
        else:
            origin, base = w.poses[str(pin)][:, :3], w.poses[rig.base][:, :3]
            gone = ((origin - base) * axis).sum(axis=1)
        wanted = way(w.times)
        off = (gone - gone[0]) - (wanted - wanted[0])
        return wrong_by("the joint", off, OFF) + _extremes(w, way, short, duration)

    return rig.case(look, solids=False)


def constant(rig: Rig) -> Case:
    turning = bool(rig.r.random() < 0.5)
    pin, joint = _held(rig, "A", turning, 0.01)
    speed, start = float(rig.r.uniform(-30, 30)), float(rig.r.uniform(-9, 9))
    if turning:
        driver: Any = drivers.Turning(name="Motor", joint=joint, speed=f"{speed!r} rpm", start=f"{start!r} deg")
        return _case(rig, driver, pin, joint, True, lambda t: np.radians(start) + speed * 2 * pi / 60 * t, [])
    driver = drivers.Sliding(name="Motor", joint=joint, speed=f"{speed!r} mm/s", start=f"{start!r} mm")
    return _case(rig, driver, pin, joint, False, lambda t: (start + speed * t) / 1e3, [])


def by_formula(rig: Rig) -> Case:
    turning = bool(rig.r.random() < 0.5)
    pin, joint = _held(rig, "A", turning, 0.01)
    law = _formula(rig.r, turning, "time", 2 * pi, 1.0)
    kind = drivers.TurnFormula if turning else drivers.SlideFormula
    return _case(rig, kind(name="Motor", joint=joint, way=law.text), pin, joint, turning, law.way, law.short)


def after(rig: Rig) -> Case:
    """After a drive that turns evenly, or to and fro."""
    r, turning = rig.r, bool(rig.r.random() < 0.5)
    _, first = _held(rig, "A", True, 0.01)
    if r.random() < 0.5:
        speed, start = float(r.uniform(20, 90)), float(r.uniform(-1, 1))
        rig.d.drive(drivers.Turning(name="First", joint=first, speed=f"{speed!r} rpm", start=f"{start!r} rad"))
        lead: Way = lambda t: start + speed * 2 * pi / 60 * t  # noqa: E731
        moments: Callable[[float], list[float]] = lambda x: [(x - start) / (speed * 2 * pi / 60)]  # noqa: E731
        quick = speed * 2 * pi / 60
    else:
        wide = float(r.uniform(0.5, 3))
        rig.d.drive(
            drivers.TurnFormula(name="First", joint=first, way=f"{wide!r} rad * sin({2 * pi!r} rad * time / (1 s))")
        )
        lead = lambda t: wide * np.sin(2 * pi * t)  # noqa: E731

        def moments(x: float) -> list[float]:
            s = x / wide
            if abs(s) > 1:
                return []
            a = float(np.arcsin(s)) / (2 * pi)
            return [a % 1.0, (0.5 - a) % 1.0]

        quick = wide * 2 * pi
    pin, joint = _held(rig, "B", turning, 0.03)
    far = lead(np.linspace(0, 1, 2001))
    law = _formula(r, turning, "other", 1.0, float(far.max()))
    kind = drivers.TurnAfter if turning else drivers.SlideAfter
    short = [(t, wide_ / quick * 3) for at, wide_ in law.short for t in moments(at) if 0 <= t <= 1]
    driver = kind(name="Motor", joint=joint, after="first", way=law.text)
    return _case(rig, driver, pin, joint, turning, lambda t: law.way(lead(t)), short)


def programme(rig: Rig) -> Case:
    """Segments by laws whose shape is printed, with dwells between them."""
    r, turning = rig.r, bool(rig.r.random() < 0.5)
    pin, joint = _held(rig, "A", turning, 0.01)
    unit, size = _unit(turning)
    model, kind = (TurnSegment, drivers.TurnProgramme) if turning else (SlideSegment, drivers.SlideProgramme)
    cuts = np.sort(r.uniform(0.02, 0.98, 5))
    ends = np.concatenate([[0.0], cuts, [1.0]])
    to = [float(x) for x in r.uniform(-15, 15, 5)] + [0.0]
    laws = [str(r.choice(list(LAWS))) for _ in to]
    segments, at, pieces = {}, 0.0, []
    for k, (goal, law) in enumerate(zip(to, laws, strict=True)):
        if r.random() < 0.25 and k < 5:
            goal = at
        over = float(ends[k + 1] - ends[k])
        segments[f"s{k}"] = model(to=f"{goal!r} {unit}", over=f"{360 * over!r} deg", law={"kind": law})  # type: ignore[arg-type]
        pieces.append((ends[k], over, at * size, (goal - at) * size, LAWS[law][0]))
        at = goal

    def way(t: np.ndarray) -> np.ndarray:
        out = np.zeros_like(t)
        for begin, over, start, far, shape in pieces:
            inside = (t >= begin) & (t <= begin + over + 1e-12)
            out[inside] = start + far * shape(np.clip((t[inside] - begin) / over, 0, 1))
        return out

    return _case(rig, kind(name="Motor", joint=joint, segments=segments), pin, joint, turning, way, [])


def table(rig: Rig) -> Case:
    """A table that ends as it begins: a periodic spline."""
    r, turning = rig.r, bool(rig.r.random() < 0.5)
    pin, joint = _held(rig, "A", turning, 0.01)
    unit, size = _unit(turning)
    x = np.concatenate([[0.0], np.cumsum(r.uniform(0.5, 2, int(r.integers(4, 9))))])
    x = x / x[-1]
    y = r.uniform(-15, 15, len(x))
    y[-1] = y[0]
    rows = "\n".join([f"s, {unit}", *(f"{float(a)!r}, {float(b)!r}" for a, b in zip(x, y, strict=True))])
    spline = make_interp_spline(x, y * size, k=3, bc_type="periodic")
    kind = drivers.TurnTable if turning else drivers.SlideTable
    return _case(
        rig, kind(name="Motor", joint=joint, rows=rows), pin, joint, turning, lambda t: np.asarray(spline(t)), []
    )


CASES: dict[str, Callable[[Rig], Case]] = {
    "constant": constant, "by_formula": by_formula, "after": after, "programme": programme, "table": table,
}  # fmt: skip
#: what these cases try
DRIVERS = (
    "turning", "sliding", "turn_formula", "slide_formula", "turn_after", "slide_after", "turn_programme", "slide_programme", "turn_table", "slide_table",
)  # fmt: skip
