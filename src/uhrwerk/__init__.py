"""Uhrwerk: assemble a mechanism, run it, check it, revise it.

The public Python API: write a document with `Draft`, or `read` one, and `check` it.

    >>> import uhrwerk
    >>> uhrwerk.read('{"format": 1, "name": "Empty"}').name
    'Empty'
"""

from uhrwerk.api import Result, check, export, load
from uhrwerk.core import curves, laws, outlines, steps
from uhrwerk.core.document import Document, ValidationFailed, schema, write
from uhrwerk.core.document.document import Cycle, Group, Units
from uhrwerk.core.elements import (
    AngleBracket,
    AngledLink,
    ArcLink,
    BentSheet,
    Block,
    Bore,
    Carrier,
    Counterweight,
    EccentricDisc,
    FramePlate,
    HingeLeaf,
    Housing,
    LinkBar,
    Pin,
    PlateCam,
    Post,
    Prism,
    Rack,
    RingGear,
    SlideBar,
    SlideGuide,
    SlottedLever,
    SpurGear,
    SteppedShaft,
    Tube,
    belts,
    cams,
    couplings,
    hardware,
)
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.evaluation.values import Value, values, where
from uhrwerk.core.joints import At
from uhrwerk.core.laws.segment import SlideSegment, TurnSegment
from uhrwerk.core.motion import drivers
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
from uhrwerk.core.upgrade import read
from uhrwerk.draft import Draft

__version__ = "0.1.0"


__all__ = [
    "AngleBracket",
    "AngledLink",
    "ArcLink",
    "At",
    "BalanceGrade",
    "BearingPressure",
    "BentSheet",
    "Block",
    "Bore",
    "Carrier",
    "CentreOfGravity",
    "Clearance",
    "ContactKept",
    "Counterweight",
    "CurveLimit",
    "Cycle",
    "Determinate",
    "Document",
    "Draft",
    "DriveEffort",
    "EccentricDisc",
    "Evaluation",
    "Evaluator",
    "FitLimits",
    "FramePlate",
    "GearMesh",
    "Group",
    "HingeLeaf",
    "Housing",
    "JointForce",
    "LinkBar",
    "MassLimit",
    "Misalignment",
    "NoInterference",
    "Pin",
    "PinBending",
    "PinShear",
    "PlateCam",
    "Post",
    "PressureAngle",
    "PrintGap",
    "Prism",
    "Rack",
    "Result",
    "RingGear",
    "ShakingForce",
    "ShakingMoment",
    "SlideBar",
    "SlideGuide",
    "SlideSegment",
    "SlottedLever",
    "SpringStrength",
    "SpurGear",
    "SteppedShaft",
    "TimeRatio",
    "ToothBending",
    "Travel",
    "Tube",
    "TurnSegment",
    "TurningSpeedLimit",
    "Units",
    "ValidationFailed",
    "Value",
    "WallThickness",
    "WantedMotion",
    "belts",
    "cams",
    "check",
    "couplings",
    "curves",
    "drivers",
    "export",
    "hardware",
    "laws",
    "load",
    "outlines",
    "read",
    "schema",
    "steps",
    "values",
    "where",
    "write",
]  # fmt: skip
