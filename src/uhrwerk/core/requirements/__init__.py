"""Requirements: what must hold, one file a kind; each judges an evaluation and gives a verdict. A new kind of requirement is a file like the others and its line below."""

from uhrwerk.core.assembly.mass_properties import Lump, MassProperties, density_of, lumps_of, mass_of
from uhrwerk.core.document.requirement import REQUIREMENTS
from uhrwerk.core.proximity.body_geometry import BodyGeometry, BodyPair, PlacedBody
from uhrwerk.core.proximity.broad_phase import may_meet
from uhrwerk.core.proximity.sweep import Meshing, PairResult, Sweep, SweepTask
from uhrwerk.core.requirements.balance_grade import BalanceGrade
from uhrwerk.core.requirements.bearing_pressure import BearingPressure
from uhrwerk.core.requirements.centre_of_gravity import CentreOfGravity
from uhrwerk.core.requirements.clearance import Clearance
from uhrwerk.core.requirements.contact_kept import ContactKept
from uhrwerk.core.requirements.curve_limit import CurveLimit
from uhrwerk.core.requirements.determinate import Determinate
from uhrwerk.core.requirements.drive_effort import DriveEffort
from uhrwerk.core.requirements.fit_limits import FitLimits
from uhrwerk.core.requirements.gear_mesh import GearMesh
from uhrwerk.core.requirements.joint_force import JointForce
from uhrwerk.core.requirements.mass_limit import MassLimit
from uhrwerk.core.requirements.misalignment import Misalignment
from uhrwerk.core.requirements.no_interference import NoInterference
from uhrwerk.core.requirements.pin_bending import PinBending
from uhrwerk.core.requirements.pin_shear import PinShear
from uhrwerk.core.requirements.pressure_angle import PressureAngle
from uhrwerk.core.requirements.print_gap import PrintGap
from uhrwerk.core.requirements.shaking_force import ShakingForce
from uhrwerk.core.requirements.shaking_moment import ShakingMoment
from uhrwerk.core.requirements.spring_strength import SpringStrength
from uhrwerk.core.requirements.time_ratio import TimeRatio
from uhrwerk.core.requirements.tooth_bending import ToothBending
from uhrwerk.core.requirements.travel import Travel
from uhrwerk.core.requirements.turning_speed import TurningSpeedLimit
from uhrwerk.core.requirements.wall_thickness import WallThickness
from uhrwerk.core.requirements.wanted_motion import WantedMotion
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

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
    SpringStrength,
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
    "BalanceGrade",
    "BearingPressure",
    "BodyGeometry",
    "BodyPair",
    "CentreOfGravity",
    "Clearance",
    "ContactKept",
    "CurveLimit",
    "Determinate",
    "DriveEffort",
    "Evaluation",
    "FitLimits",
    "GearMesh",
    "JointForce",
    "Lump",
    "MassLimit",
    "MassProperties",
    "Meshing",
    "Misalignment",
    "NoInterference",
    "PairResult",
    "PinBending",
    "PinShear",
    "PlacedBody",
    "PressureAngle",
    "PrintGap",
    "Requirement",
    "ShakingForce",
    "ShakingMoment",
    "SpringStrength",
    "Sweep",
    "SweepTask",
    "TimeRatio",
    "ToothBending",
    "Travel",
    "TurningSpeedLimit",
    "Verdict",
    "WallThickness",
    "WantedMotion",
    "density_of",
    "lumps_of",
    "mass_of",
    "may_meet",
]  # fmt: skip
