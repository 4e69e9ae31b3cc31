"""What marks a field: its dimension, what it refers to, which kinds it takes; refusals; a model's numbers."""

from uhrwerk.core.field.dimension import (
    Angle,
    AngleOrOpen,
    AngleOverTime,
    AnyDimension,
    Count,
    Density,
    Dimension,
    Force,
    Formula,
    Length,
    LengthOrOpen,
    LengthOverTime,
    Mass,
    Number,
    Positive,
    Seconds,
    Size,
    SizeOrNone,
    SlidingSpeed,
    Span,
    Stress,
    StressOrOpen,
    Time,
    TurningSpeed,
    dimension_of,
    formulas,
    meant,
    solve_field,
)
from uhrwerk.core.field.kinds import Kinds
from uhrwerk.core.field.numbers import Numbers, numbers, numbers_class
from uhrwerk.core.field.ref import (
    CurveId,
    DriverId,
    JointId,
    MaterialId,
    PairId,
    PartId,
    PlacedId,
    Ref,
    Reference,
    reference_of,
    references,
)
from uhrwerk.core.field.stated import Id, Lines, Model, Name, Refused

__all__ = [
    "Angle", "AngleOrOpen", "AngleOverTime", "AnyDimension", "Count", "CurveId", "Density", "Dimension", "DriverId", "Force", "Formula", "Id", "JointId", "Kinds", "Length", "LengthOrOpen", "LengthOverTime", "Lines", "Mass",
    "MaterialId", "Model", "Name", "Number", "Numbers", "PairId", "PartId", "PlacedId", "Positive", "Ref", "Reference", "Refused", "Seconds",
    "Size", "SizeOrNone", "SlidingSpeed", "Span", "Stress", "StressOrOpen", "Time", "TurningSpeed", "dimension_of", "formulas", "meant", "numbers", "numbers_class",
    "reference_of", "references", "solve_field",
]  # fmt: skip
