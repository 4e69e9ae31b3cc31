"""The tooth form of a spur gear cut by a rack: involute flanks, trochoid root, tip and root circles.

Sources: ISO 21771-1 (concepts and geometry: base, tip and root circle, tooth thickness half angle, working pressure
angle, backlash); ISO 53 profile A (pressure angle 20 deg, addendum 1, dedendum 1.25, root radius 0.38); the trochoid
is the envelope of the rack's rounded tip (Litvin, Fuentes, Gear Geometry and Applied Theory, ch. 6). From memory.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import acos, atan2, cos, hypot, pi, sin, sqrt, tan

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def crossing(function: Callable[[float], float], low: float, high: float) -> float:
    """Where a function crosses zero between low and high (Brent's method)."""
    from scipy.optimize import brentq  # here, since loading it takes longer than starting the server

    return float(brentq(function, low, high, xtol=1e-15))


def inv(angle: float) -> float:
    """The involute function, tan(a) - a."""
    return tan(angle) - angle


@dataclass(frozen=True)
class Tooth:
    """Sizes of one gear in metres and radians; `x` is the profile shift as a multiple of the module."""

    module: float
    teeth: int
    alpha: float
    x: float = 0.0
    addendum: float = 1.0
    dedendum: float = 1.25
    root_radius: float = 0.38
    thinning: float = 0.0

    @property
    def pitch_radius(self) -> float:
        return self.module * self.teeth / 2

    @property
    def base_radius(self) -> float:
        return self.pitch_radius * cos(self.alpha)

    @property
    def tip_radius(self) -> float:
        return self.pitch_radius + self.module * (self.addendum + self.x)

    @property
    def root_circle(self) -> float:
        return self.pitch_radius - self.module * (self.dedendum - self.x)

    @property
    def thickness(self) -> float:
        """Arc tooth thickness at the pitch circle."""
        return self.module * (pi / 2 + 2 * self.x * tan(self.alpha)) - self.thinning

    def half_angle(self, radius: float) -> float:
        """Half the angle a tooth spans at `radius`, on its involute."""
        return (
            self.thickness / (2 * self.pitch_radius) + inv(self.alpha) - inv(acos(min(1.0, self.base_radius / radius)))
        )

    @property
    def _tip(self) -> tuple[float, float, float]:
        """Rounding of the rack's tip: radius, depth of its centre below the pitch line, its distance from mid-space."""
        rho = self.root_radius * self.module
        down = self.dedendum * self.module - rho
        half = pi * self.module / 4 + self.thinning / 2
        return rho, down - self.x * self.module, half - down * tan(self.alpha) - rho / cos(self.alpha)

    @property
    def undercut(self) -> bool:
        rho, depth, _ = self._tip
        return depth + rho * sin(self.alpha) > self.pitch_radius * sin(self.alpha) ** 2 + 1e-12

    @property
    def faults(self) -> list[tuple[str, str]]:
        """Sizes that give no tooth, as (field, reason)."""
        _, depth, across = self._tip
        if self.thickness <= 0:
            return [("thinning", "leaves no tooth at the pitch circle")]
        if across < 0:
            return [("root_radius", "is too large for the space between the teeth")]
        if depth <= 0:
            return [("profile_shift", "is too large: the rack no longer reaches the pitch circle")]
        if self.tip_radius <= self.base_radius or self.half_angle(self.tip_radius) <= 0:
            return [("addendum", "and profile shift make the tooth pointed below its tip circle")]
        if self.root_circle <= 0:
            return [("dedendum", "reaches the axis")]
        return []

    def _trochoid(self, across: float) -> tuple[float, float]:
        """Radius, and angle from mid-space, of the root curve where the tip's centre stands `across` of the pitch point."""
        rho, depth, start = self._tip
        long = hypot(across, depth)
        x, y = across * (1 + rho / long), self.pitch_radius - depth * (1 + rho / long)
        return hypot(x, y), atan2(x, y) - (across - start) / self.pitch_radius

    def _space(self, radius: float) -> float:
        return pi / self.teeth - self.half_angle(radius)

    def root_curve(self, count: int = 9) -> Array:
        """(count, 2) radius and angle from mid-space, from the root circle to where the involute starts."""
        _, depth, _ = self._tip
        end = depth / tan(self.alpha)
        if self.undercut:
            # the trochoid cuts into the flank above the base circle: find where they cross

            def beyond(across: float) -> float:
                radius, angle = self._trochoid(across)
                return angle - self._space(max(radius, self.base_radius))

            grid = np.linspace(0, 2 * end, 400)
            inside = [g for g in grid if self._trochoid(g)[0] > self.base_radius and beyond(g) > 0]
            last = inside[-1] if inside else end
            after = [g for g in grid if g > last and beyond(g) <= 0]
            end = crossing(beyond, last, after[0]) if inside and after else last
        return np.array([self._trochoid(a) for a in end * np.linspace(0, 1, count) ** 1.5])

    @property
    def form_radius(self) -> float:
        """Where the involute starts."""
        return float(self.root_curve(2)[-1, 0])

    def flank(self, count: int = 11) -> Array:
        """(count, 2) radius and angle from mid-tooth, from the form circle to the tip; even steps of roll angle."""
        rb = self.base_radius
        rolls = np.linspace(
            sqrt(max(0.0, (self.form_radius / rb) ** 2 - 1)), sqrt((self.tip_radius / rb) ** 2 - 1), count
        )
        radii = rb * np.sqrt(1 + rolls**2)
        return np.array([(r, self.half_angle(r)) for r in radii])

    def outline(self) -> dict[str, object]:
        """The gear's outline as a recipe outline, a tooth centred on +x."""
        step, (_, _, across) = 2 * pi / self.teeth, self._tip
        root, flank = self.root_curve(), self.flank()
        mid_root = across / self.pitch_radius
        start = _polar(self.root_circle, -step / 2 + mid_root)
        path: list[list[object]] = []
        for tooth in range(self.teeth):
            at = tooth * step
            rise = [_polar(r, at - step / 2 + a) for r, a in root[1:-1]] + [_polar(flank[0, 0], at - flank[0, 1])]
            path.append(["spline", rise])
            path.append(["spline", [_polar(r, at - a) for r, a in flank[1:]]])
            path.append(["arc", _polar(self.tip_radius, at), _polar(self.tip_radius, at + flank[-1, 1])])
            path.append(["spline", [_polar(r, at + a) for r, a in flank[-2::-1]]])
            end = _polar(self.root_circle, at + step / 2 - mid_root)
            path.append(["spline", [_polar(r, at + step / 2 - a) for r, a in root[-2:0:-1]] + [end]])
            if mid_root * self.root_circle > 1e-7:
                last = tooth == self.teeth - 1
                path.append(
                    [
                        "arc",
                        _polar(self.root_circle, at + step / 2),
                        start if last else _polar(self.root_circle, at + step / 2 + mid_root),
                    ]
                )
        return {"start": start, "path": path}


def _polar(radius: float, angle: float) -> list[float]:
    return [float(radius * cos(angle)), float(radius * sin(angle))]


def working_angle(a: Tooth, b: Tooth, centres: float) -> float:
    """Working pressure angle at a centre distance."""
    ratio = (a.base_radius + b.base_radius) / centres
    return acos(ratio) if ratio < 1 else 0.0


def centre_distance(a: Tooth, b: Tooth) -> float:
    """Centre distance at which unthinned teeth mesh without backlash (ISO 21771)."""
    wanted = inv(a.alpha) + 2 * (a.x + b.x) * tan(a.alpha) / (a.teeth + b.teeth)
    angle = crossing(lambda t: inv(t) - wanted, 0.0, 1.4)
    return float((a.base_radius + b.base_radius) / cos(angle))


def normal_backlash(a: Tooth, b: Tooth, centres: float) -> float:
    """Backlash along the line of action at a centre distance: negative where the flanks would have to overlap.

    Working pitch circles roll on one another; what is left of the pitch there after both teeth is the backlash.
    """
    angle = working_angle(a, b, centres)
    ra, rb = a.base_radius / cos(angle), b.base_radius / cos(angle)
    pitch = 2 * pi * ra / a.teeth
    return (pitch - 2 * ra * a.half_angle(ra) - 2 * rb * b.half_angle(rb)) * cos(angle)


def lewis(t: Tooth, count: int = 200) -> float:
    """Lewis' form factor Y: of the parabola of even bending that fits into a tooth from where the load at its tip crosses the
    tooth's middle, t^2 / (6 l m) at the section where it touches the root curve. Lewis (1893); Shigley, ch. 14-1. From memory."""
    slope = acos(t.base_radius / t.tip_radius) - t.half_angle(t.tip_radius)
    apex = t.base_radius / cos(slope)
    radius, angle = t.root_curve(count).T
    across, up = radius * np.sin(pi / t.teeth - angle), radius * np.cos(pi / t.teeth - angle)
    return float(np.min((2 * across) ** 2 / (6 * (apex - up) * t.module)))


def line_of_action(a: Tooth, b: Tooth, centres: float) -> tuple[float, float]:
    """From where to where flanks touch along the line of action, m from the foot of a's base circle on it.

    Contact ends at both tip circles, and at both form circles, where the involute of an undercut or rounded root ends.
    """
    whole = centres * sin(working_angle(a, b, centres))

    def reach(g: Tooth, radius: float) -> float:
        return sqrt(max(0.0, radius**2 - g.base_radius**2))

    start = max(reach(a, a.form_radius), whole - reach(b, b.tip_radius))
    end = min(reach(a, a.tip_radius), whole - reach(b, b.form_radius))
    return start, end


def contact_ratio(a: Tooth, b: Tooth, centres: float) -> float:
    """Transverse contact ratio: the length of action that both flanks have, over the base pitch (ISO 21771-1)."""
    start, end = line_of_action(a, b, centres)
    return max(0.0, end - start) / (pi * a.module * cos(a.alpha))


def tip_reaches_below(a: Tooth, b: Tooth, centres: float) -> bool:
    """Whether b's tips reach a's flanks below the form circle, where there is no involute: interference of the tip."""
    whole = centres * sin(working_angle(a, b, centres))
    return (
        whole - sqrt(max(0.0, b.tip_radius**2 - b.base_radius**2))
        < sqrt(max(0.0, a.form_radius**2 - a.base_radius**2)) - 1e-9
    )


__all__ = [
    "Tooth", "centre_distance", "contact_ratio", "inv", "line_of_action", "normal_backlash", "tip_reaches_below", "working_angle",
]  # fmt: skip
