"""Checks: a requirement in, a verdict out. A new kind of requirement is a file like the others and its line below."""

from uhrwerk.core.checks.asked import Asked
from uhrwerk.core.checks.balance_grade import BalanceGrade
from uhrwerk.core.checks.bearing_pressure import BearingPressure
from uhrwerk.core.checks.broad import may_meet
from uhrwerk.core.checks.centre_of_gravity import CentreOfGravity
from uhrwerk.core.checks.clearance import Clearance
from uhrwerk.core.checks.contact_kept import ContactKept
from uhrwerk.core.checks.curve_limit import CurveLimit
from uhrwerk.core.checks.determinate import Determinate
from uhrwerk.core.checks.drive_effort import DriveEffort
from uhrwerk.core.checks.evaluation import Evaluation
from uhrwerk.core.checks.fit_limits import FitLimits
from uhrwerk.core.checks.gear_mesh import GearMesh
from uhrwerk.core.checks.joint_force import JointForce
from uhrwerk.core.checks.mass import Lump, MassOf, density_of, lumps_of, mass_of
from uhrwerk.core.checks.mass_limit import MassLimit
from uhrwerk.core.checks.misalignment import Misalignment
from uhrwerk.core.checks.no_interference import NoInterference
from uhrwerk.core.checks.pin_bending import PinBending
from uhrwerk.core.checks.pin_shear import PinShear
from uhrwerk.core.checks.pressure_angle import PressureAngle
from uhrwerk.core.checks.print_gap import PrintGap
from uhrwerk.core.checks.shaking_force import ShakingForce
from uhrwerk.core.checks.shaking_moment import ShakingMoment
from uhrwerk.core.checks.shape import Form, Pair, Shape
from uhrwerk.core.checks.spring_sound import SpringSound
from uhrwerk.core.checks.sweep import Finding, Meshing, Sweep, Task
from uhrwerk.core.checks.time_ratio import TimeRatio
from uhrwerk.core.checks.tooth_bending import ToothBending
from uhrwerk.core.checks.travel import Travel
from uhrwerk.core.checks.turning_speed import TurningSpeedLimit
from uhrwerk.core.checks.verdict import Verdict
from uhrwerk.core.checks.wall_thickness import WallThickness
from uhrwerk.core.checks.wanted_motion import WantedMotion
from uhrwerk.core.document.requirement import REQUIREMENTS

for _kind in (
    NoInterference,
    Clearance,
    MassLimit,
    Determinate,
    Travel,
    TimeRatio,
    TurningSpeedLimit,
    WantedMotion,
    PressureAngle,
    ContactKept,
    CurveLimit,
    Misalignment,
    SpringSound,
    CentreOfGravity,
    BalanceGrade,
    ShakingForce,
    PrintGap,
    FitLimits,
    GearMesh,
    WallThickness,
    ShakingMoment,
    DriveEffort,
    JointForce,
    PinShear,
    PinBending,
    BearingPressure,
    ToothBending,
):
    REQUIREMENTS.register(_kind)

__all__ = [
    "Asked", "BalanceGrade", "BearingPressure", "CentreOfGravity", "Clearance", "ContactKept", "CurveLimit", "Determinate", "DriveEffort", "Evaluation", "Finding", "FitLimits", "Form", "GearMesh", "JointForce", "Lump", "MassLimit", "MassOf", "Meshing", "Misalignment", "NoInterference", "Pair", "PinBending", "PinShear", "PressureAngle", "PrintGap",
    "ShakingForce", "ShakingMoment", "Shape", "SpringSound", "Sweep", "Task", "TimeRatio", "ToothBending", "Travel", "TurningSpeedLimit", "Verdict", "WallThickness", "WantedMotion", "density_of", "lumps_of", "mass_of", "may_meet",
]  # fmt: skip
