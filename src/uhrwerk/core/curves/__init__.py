"""Curves: quantities over the cycle, one file each. A new kind is a file like the others and its line below."""

from uhrwerk.core.curves.acting import EffortCurve, JointForceCurve, SpringCurve
from uhrwerk.core.curves.angle import AngleCurve, TransmissionAngle
from uhrwerk.core.curves.coordinate import JointCurve, RatioCurve
from uhrwerk.core.curves.curve_of import SERIES, CurveOf, Least, MeasuredCurve, Series, run
from uhrwerk.core.curves.followed import FollowedMotion, NotMeasured
from uhrwerk.core.curves.formula import FormulaCurve
from uhrwerk.core.curves.gap import GapCurve
from uhrwerk.core.curves.point import DistanceCurve, PointAcceleration, PointCurve, PointSpeed
from uhrwerk.core.document.curve import CURVES

for _kind in (
    JointCurve,
    PointCurve,
    PointSpeed,
    PointAcceleration,
    DistanceCurve,
    GapCurve,
    AngleCurve,
    TransmissionAngle,
    RatioCurve,
    EffortCurve,
    JointForceCurve,
    SpringCurve,
    FormulaCurve,
):
    CURVES.register(_kind)

__all__ = [
    "CURVES",
    "SERIES",
    "AngleCurve",
    "CurveOf",
    "DistanceCurve",
    "EffortCurve",
    "FollowedMotion",
    "FormulaCurve",
    "GapCurve",
    "JointCurve",
    "JointForceCurve",
    "Least",
    "MeasuredCurve",
    "NotMeasured",
    "PointAcceleration",
    "PointCurve",
    "PointSpeed",
    "RatioCurve",
    "Series",
    "SpringCurve",
    "TransmissionAngle",
    "run",
]  # fmt: skip
