"""A dense witness for clearances: bars and posts as bands round segments, placed by closed forms, all in one plane.

It shares no code with Uhrwerk: a link bar's outline is the set of points within half its width of the segment between its
end holes, so the distance of two is that of their segments less both half widths. Distance of segments: Ericson, Real-Time
Collision Detection, 5.1.9 (from memory), checked against shapely in `test_witness.py`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from tests.mechanisms import four_bar_closed_form, mm
from uhrwerk import Clearance, Cycle, Draft, LinkBar, NoInterference, Pin
from uhrwerk.core.document import Document
from uhrwerk.core.document.document import Parameter
from uhrwerk.core.document.requirement import Of

Array = NDArray[np.float64]
#: places of both segments at moments (T,): four complex arrays (T,), ends of one and of the other
Placed = Callable[[Array], tuple[Array, Array, Array, Array]]


@dataclass(frozen=True)
class Case:
    """A document, and its witness: where both segments are, how far their surfaces stand off, and over which times."""

    words: str
    document: Document
    placed: Placed
    off: float
    span: float  # what is to be looked at, s: the cycle, or the time after which it repeats
    limit: float
    details: dict[str, object] = field(default_factory=dict)

    def distances(self, times: Array) -> Array:
        return segments_apart(*self.placed(times)) - self.off

    def smallest(self, count: int = 10_000) -> float:
        """The smallest of `count` poses, closed in on round the best few."""
        times = np.linspace(0, self.span, count + 1)
        found = self.distances(times)
        best = float(found.min())
        step = times[1]
        for k in np.argsort(found)[:3]:
            low, high = max(0.0, times[k] - step), min(self.span, times[k] + step)
            for _ in range(12):
                fine = np.linspace(low, high, 21)
                d = self.distances(fine)
                at = int(np.argmin(d))
                best = min(best, float(d[at]))
                low, high = fine[max(0, at - 1)], fine[min(20, at + 1)]
        return best


def point_to_segment(p: Array, a: Array, b: Array) -> Array:
    d = b - a
    size = np.maximum(np.abs(d) ** 2, 1e-300)
    t = np.clip(((p - a) * d.conj()).real / size, 0, 1)
    return np.abs(p - a - t * d)


def segments_apart(a: Array, b: Array, c: Array, d: Array) -> Array:
    """Distance of segments ab and cd in the plane: zero where they cross, else that of an end from the other."""

    def side(p: Array, q: Array, r: Array) -> Array:
        return ((q - p).conj() * (r - p)).imag

    crossing = (side(a, b, c) * side(a, b, d) < 0) & (side(c, d, a) * side(c, d, b) < 0)
    ends = [point_to_segment(c, a, b), point_to_segment(d, a, b), point_to_segment(a, c, d), point_to_segment(b, c, d)]
    return np.where(crossing, 0.0, np.min(ends, axis=0))


WIDTH = 0.010


def _bar(length: float) -> LinkBar:
    return LinkBar(distance=mm(length), width=mm(WIDTH), bore_1="4 mm", bore_2="4 mm")


def _asked(draft: Draft, a: str, b: str) -> None:
    draft.require(NoInterference(name="Apart"))
    draft.require(Clearance(name="Gap", a=Of(placed=a), b=Of(placed=b), at_least="at_least"))


def arm_and_post(random: np.random.Generator) -> Case:
    """A bar on a fixed axis and a post: any speed, turns and frames."""
    length, post = random.choice([0.04, 0.06]), random.choice([0.004, 0.006])
    near = random.choice([length, 0.5 * length, length + WIDTH / 2 + post / 2])
    place = (near + random.normal(0, 0.004)) * np.exp(1j * random.uniform(0, 2 * np.pi))
    start, turns, sign = random.uniform(-np.pi, np.pi), 10 ** random.uniform(-1, 3), random.choice([-1, 1])
    duration = 10 ** random.uniform(-2, 1)
    limit = abs(random.normal(0, 0.002))
    document = _arm(length, post).model_copy(
        update={
            "parameters": _parameters(sign * turns / duration, start, place, limit),
            "cycle": Cycle(duration=f"{float(duration)!r} s", frames=int(random.choice([12, 24, 90, 360, 3600]))),
        }
    )
    speed = sign * 2 * np.pi * turns / duration

    def placed(t: Array) -> tuple[Array, Array, Array, Array]:
        e = np.exp(1j * (start + speed * t))
        still = np.full(len(t), place)
        return 0 * e, length * e, still, still

    span = min(duration, duration / turns)
    words = f"arm {length * 1e3:.0f} mm, post {post * 1e3:.0f} mm at {place * 1e3:.3f} mm, {sign * turns:.4g} turns in {duration:.4g} s, {document.cycle.frames} frames"
    return Case(words, document, placed, WIDTH / 2 + post / 2, span, limit)


def coupler_and_post(random: np.random.Generator) -> Case:
    """A four-bar's coupler and a post."""
    a, b, c, d = [(0.02, 0.07, 0.05, 0.06), (0.03, 0.09, 0.06, 0.08)][random.integers(2)]
    crossed, post = bool(random.integers(2)), random.choice([0.004, 0.006])
    start, turns, sign = random.uniform(-np.pi, np.pi), 10 ** random.uniform(-1, 3), random.choice([-1, 1])
    duration = 10 ** random.uniform(-2, 1)
    speed = sign * 2 * np.pi * turns / duration

    def coupler(t: Array) -> tuple[Array, Array]:
        crank = start + speed * t
        found = four_bar_closed_form(a, b, c, d, crank, speed, crossed)
        tip = a * np.exp(1j * crank)
        return tip, tip + b * np.exp(1j * found.coupler)

    p, q = coupler(np.array([random.uniform(0, 2 * np.pi) / abs(speed)]))
    place = complex((p + random.uniform(0, 1) * (q - p))[0]) + (WIDTH / 2 + post / 2) * random.normal(0, 1.2) * np.exp(
        1j * random.uniform(0, 6)
    )
    limit = abs(random.normal(0, 0.002))
    document = _linkage((a, b, c, d), crossed, post).model_copy(
        update={
            "parameters": _parameters(sign * turns / duration, start, place, limit),
            "cycle": Cycle(duration=f"{float(duration)!r} s", frames=int(random.choice([12, 24, 90, 360]))),
        }
    )

    def placed(t: Array) -> tuple[Array, Array, Array, Array]:
        still = np.full(len(t), place)
        return (*coupler(t), still, still)

    words = f"four-bar {a * 1e3:.0f} {b * 1e3:.0f} {c * 1e3:.0f} {d * 1e3:.0f}{' crossed' if crossed else ''}, post {post * 1e3:.0f} mm at {place * 1e3:.3f} mm, {sign * turns:.4g} turns in {duration:.4g} s from {start:.4f}, {document.cycle.frames} frames"
    return Case(words, document, placed, WIDTH / 2 + post / 2, min(duration, duration / turns), limit)


def two_arms(random: np.random.Generator) -> Case:
    """Two bars on axes of their own, each with a driver of its own."""
    one, other = random.choice([0.03, 0.04]), random.choice([0.03, 0.04])
    apart = round((one + other + WIDTH) * random.choice([0.6, 0.8, 0.95, 0.99, 1.01, 1.03]), 4)
    starts, sign = random.uniform(-np.pi, np.pi, 2), random.choice([-1, 1], 2)
    duration = 10 ** random.uniform(-2, 1)
    turns = sign * random.choice([0.1, 0.37, 1, 2, 3, 7.5, 20], 2)
    limit = abs(random.normal(0, 0.002))
    document = _arms(one, other, apart).model_copy(
        update={
            "parameters": _parameters(turns[0] / duration, starts[0], 0j, limit, turns[1] / duration, starts[1]),
            "cycle": Cycle(duration=f"{float(duration)!r} s", frames=int(random.choice([12, 24, 90, 360]))),
        }
    )

    def placed(t: Array) -> tuple[Array, Array, Array, Array]:
        e, f = (np.exp(1j * (s + 2 * np.pi * n * t / duration)) for s, n in zip(starts, turns, strict=True))
        return 0 * e, one * e, apart + 0 * f, apart + other * f

    words = f"arms {one * 1e3:.0f} and {other * 1e3:.0f} mm, {apart * 1e3:.3f} mm apart, {turns[0]:g} and {turns[1]:g} turns in {duration:.4g} s, {document.cycle.frames} frames"
    return Case(words, document, placed, WIDTH, duration, limit)


KINDS = [arm_and_post, coupler_and_post, two_arms]


def _parameters(
    speed: float, start: float, place: complex, limit: float, speed_2: float = 0.0, start_2: float = 0.0
) -> dict:
    return {
        name: Parameter(formula=formula)
        for name, formula in (
            ("speed", f"{float(speed)!r} rev / s"), ("start", f"{float(start)!r} rad"), ("px", mm(place.real)), ("py", mm(place.imag)),
            ("at_least", mm(limit)), ("speed_2", f"{float(speed_2)!r} rev / s"), ("start_2", f"{float(start_2)!r} rad"),
        )
    }  # fmt: skip


_made: dict[tuple, Document] = {}


def _kept(key: tuple, make: Callable[[], Document]) -> Document:
    if key not in _made:
        _made[key] = make()
    return _made[key]


def _draft(name: str) -> Draft:
    d = Draft(name)
    for n, formula in (("speed", "1 rev/s"), ("start", "0 rad"), ("px", "70 mm"), ("py", "0 mm"), ("at_least", "1 mm"), ("speed_2", "1 rev/s"), ("start_2", "0 rad")):  # fmt: skip
        d.parameter(n, formula)
    return d


def _arm(length: float, post: float) -> Document:
    def make() -> Document:
        d = _draft("Arm and post")
        axis = d.part("Axis", "steel", Pin(diameter="3 mm", length="4 mm"), z="-20 mm")
        stand = d.part("Post", "steel", Pin(diameter=mm(post), length="30 mm"), x="px", y="py", z="-10 mm")
        arm = d.part("Arm", "steel", _bar(length), turn_z="start")
        joint = d.revolute("Arm turns", axis["axis"], arm["hole_1"], offset="20 mm")
        d.turn("Motor", joint, "speed", "start")
        _asked(d, arm, stand)
        return d.document

    return _kept(("arm", length, post), make)


def _linkage(sizes: tuple[float, ...], crossed: bool, post: float) -> Document:
    a, b, c, g = sizes

    def make() -> Document:
        d = _draft("Four-bar and post")
        ground = d.part("Ground", "steel", _bar(g), z="-20 mm")
        stand = d.part("Post", "steel", Pin(diameter=mm(post), length="6 mm"), x="px", y="py", z="-8 mm")
        crank = d.part("Crank", "steel", _bar(a), z="-14 mm", turn_z="start")
        side = "-" if crossed else ""
        coupler = d.part("Coupler", "steel", _bar(b), x=f"{mm(a)} * cos(start)", y=f"{mm(a)} * sin(start)", z="-8 mm", turn_z=f"{side}40 deg")  # fmt: skip
        rocker = d.part("Rocker", "steel", _bar(c), x=mm(g), z="-14 mm", turn_z=f"{side}95 deg")
        joint = d.revolute("Crank in ground", ground["hole_1"], crank["hole_1"], offset="6 mm")
        d.revolute("Coupler on crank", crank["hole_2"], coupler["hole_1"], offset="6 mm")
        d.revolute("Rocker in ground", ground["hole_2"], rocker["hole_1"], offset="6 mm")
        d.revolute("Coupler on rocker", rocker["hole_2"], coupler["hole_2"], offset="6 mm")
        d.turn("Motor", joint, "speed", "start")
        _asked(d, coupler, stand)
        return d.document

    return _kept(("linkage", *sizes, crossed, post), make)


def _arms(one: float, other: float, apart: float) -> Document:
    def make() -> Document:
        d = _draft("Two arms")
        ground = d.part("Ground", "steel", _bar(apart), z="-20 mm")
        left = d.part("Left", "steel", _bar(one), turn_z="start")
        right = d.part("Right", "steel", _bar(other), x=mm(apart), turn_z="start_2")
        first = d.revolute("Left turns", ground["hole_1"], left["hole_1"], offset="20 mm")
        then = d.revolute("Right turns", ground["hole_2"], right["hole_1"], offset="20 mm")
        d.turn("Motor", first, "speed", "start")
        d.turn("Second motor", then, "speed_2", "start_2")
        _asked(d, left, right)
        return d.document

    return _kept(("arms", one, other, apart), make)
