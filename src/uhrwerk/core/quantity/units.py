"""The units a designer writes, as a small pint registry in which an angle is a dimension of its own.

In SI an angle is a plain number, so `360 deg` would pass silently as a length of 6.28. Here it cannot.
Conversion factors are exact by definition: inch and pound (International yard and pound agreement, 1959), pound-force by the
standard acceleration of free fall (9.80665 m/s2).
"""

from __future__ import annotations

from functools import cache
from math import ceil, log10
from typing import Any

import pint

_DEFINITIONS = """
metre = [length] = m
kilogram = [mass] = kg
second = [time] = s
radian = [angle] = rad
mm = 1e-3 metre
cm = 1e-2 metre
um = 1e-6 metre
inch = 0.0254 metre
ft = 0.3048 metre
gram = 1e-3 kilogram = g
tonne = 1e3 kilogram = t
lb = 0.45359237 kilogram
oz = 0.028349523125 kilogram
ms = 1e-3 second
min = 60 second
hour = 3600 second = h
deg = 0.017453292519943295 radian
rev = 6.283185307179586 radian
rpm = rev / min
newton = kilogram * metre / second ** 2 = N
pascal = newton / metre ** 2 = Pa
MPa = 1e6 pascal
GPa = 1e9 pascal
lbf = 4.4482216152605 newton
psi = lbf / inch ** 2
ksi = 1e3 psi
"""

ureg: pint.UnitRegistry[Any] = pint.UnitRegistry(None)
for _line in _DEFINITIONS.strip().splitlines():
    ureg.define(_line)

#: what may be written after a number -> the registry's unit
WRITTEN = {
    "mm": "mm", "cm": "cm", "m": "metre", "um": "um", "µm": "um", "in": "inch", "inch": "inch", "ft": "ft",
    "deg": "deg", "°": "deg", "rad": "radian", "rev": "rev", "rpm": "rpm",
    "kg": "kilogram", "g": "gram", "t": "tonne", "lb": "lb", "oz": "oz",
    "s": "second", "ms": "ms", "min": "min", "h": "hour", "N": "newton", "Pa": "pascal", "MPa": "MPa", "GPa": "GPa",
    "lbf": "lbf", "psi": "psi", "ksi": "ksi",
}  # fmt: skip

#: dimension of a field -> (SI unit, unit shown by default)
DIMENSIONS = {
    "length": ("metre", "mm"),
    "angle": ("radian", "deg"),
    "mass": ("kilogram", "g"),
    "time": ("second", "s"),
    "turning speed": ("radian / second", "rpm"),
    "sliding speed": ("metre / second", "mm/s"),
    "turning acceleration": ("radian / second ** 2", "rad/s^2"),
    "acceleration": ("metre / second ** 2", "m/s^2"),
    "turning jerk": ("radian / second ** 3", "rad/s^3"),
    "jerk": ("metre / second ** 3", "m/s^3"),
    "density": ("kilogram / metre ** 3", "g/cm^3"),
    "stress": ("pascal", "MPa"),
    "force": ("newton", "N"),
    "torque": ("newton * metre", "N mm"),
    "stiffness": ("newton / metre", "N/mm"),
    "unbalance": ("kilogram * metre", "g mm"),
    "couple": ("kilogram * metre ** 2", "g mm^2"),
    "number": ("", ""),
}

_PINT_NAMES = {
    "mm/s": "mm / second", "rad/s^2": "radian / second ** 2", "m/s^2": "metre / second ** 2",
    "rad/s^3": "radian / second ** 3", "m/s^3": "metre / second ** 3", "g/cm^3": "gram / cm ** 3", "N/mm": "newton / mm", "N mm": "newton * mm", "g mm": "gram * mm", "g mm^2": "gram * mm ** 2", "": "", **WRITTEN,
}  # fmt: skip


@cache
def unit(text: str) -> pint.Unit:
    """The registry's unit for a unit as shown, such as ``mm`` or ``g/cm^3``."""
    return ureg.Unit(_PINT_NAMES[text])


@cache
def si_unit(dimension: str) -> pint.Unit:
    return ureg.Unit(DIMENSIONS[dimension][0])


@cache
def dimensionality(dimension: str) -> Any:
    return si_unit(dimension).dimensionality


@cache
def _in_one(dimension: str, unit_name: str) -> float:
    """How much one of the unit `shown` is in SI."""
    return float(ureg.Quantity(1.0, unit(unit_name)).to(si_unit(dimension)).magnitude)


def in_unit(si: float, dimension: str, unit: str) -> float:
    """An SI value of `dimension` in the unit `shown`."""
    return float(si) / _in_one(dimension, unit)


def length_text(si: float, unit: str, within: float = 1e-9) -> str:
    """A length (m) as a formula in a unit, rounded to so much (m) or finer, whatever the unit."""
    decimals = ceil(-log10(within / _in_one("length", unit)) - 1e-9)
    return f"{round(in_unit(si, 'length', unit), decimals) + 0.0:.12g} {unit}"


def display(si: float, dimension: str, unit: str | None = None, digits: int | None = None) -> str:
    """`si` as a designer reads it: rounded to `digits` decimals (chosen by the unit if not given), with its unit."""
    unit = DIMENSIONS[dimension][1] if unit is None else unit
    number = in_unit(si, dimension, unit)
    if digits is None:
        digits = {"mm": 2, "in": 4, "deg": 2, "g": 1, "kg": 4, "lb": 4, "m": 5, "MPa": 0, "g mm": 1, "g mm^2": 0}.get(
            unit, 3
        )
        if unit in ("mm", "g") and 0 < abs(number) < 0.0995:  # 0.005 mm must not read 0.01 mm
            digits = 3
        if unit in ("N", "N mm") and abs(number) >= 10:
            digits = (1 if abs(number) < 100 else 0) if unit == "N mm" else 2 if abs(number) < 100 else 1
    text = f"{number:.{digits}f}"
    if float(text) == 0:
        text = text.lstrip("-")
    return f"{text} {unit}".rstrip()


def dimension_of(q: pint.Quantity[Any]) -> str:
    """The plain name of a quantity's dimension, for messages."""
    for name, (si, _) in DIMENSIONS.items():
        if q.check(ureg.Unit(si).dimensionality):
            return name
    return str(q.dimensionality).replace("[", "").replace("]", "")


#: dimension -> SI unit as written
SI = {
    "length": "m", "angle": "rad", "mass": "kg", "time": "s", "turning speed": "rad/s", "sliding speed": "m/s",
    "turning acceleration": "rad/s2", "acceleration": "m/s2", "turning jerk": "rad/s3", "jerk": "m/s3",
    "density": "kg/m3", "stress": "Pa", "force": "N", "stiffness": "N/m", "torque": "N m", "unbalance": "kg m", "couple": "kg m2", "number": "1", "text": "", "inertia": "kg m2",
}  # fmt: skip
