"""How placed parts are held to one another: joints, relations, pairs, one file each.

A new one is a file like the others and its place in a line below; the order is that of the offers when two datums are joined.
"""

from uhrwerk.core.field import Kinds
from uhrwerk.core.joints.angle_between import AngleBetween
from uhrwerk.core.joints.at import At, Side
from uhrwerk.core.joints.belt_pair import BeltPair
from uhrwerk.core.joints.bevel_pair import BevelPair
from uhrwerk.core.joints.cam_pair import CamPair
from uhrwerk.core.joints.concentric import Concentric
from uhrwerk.core.joints.coupling_pair import CouplingPair
from uhrwerk.core.joints.cylindrical import Cylindrical
from uhrwerk.core.joints.distance import Distance
from uhrwerk.core.joints.flush import Flush
from uhrwerk.core.joints.force import ForcePair
from uhrwerk.core.joints.gear_pair import GearPair
from uhrwerk.core.joints.geneva_pair import GenevaPair
from uhrwerk.core.joints.held import Held
from uhrwerk.core.joints.helical_pair import HelicalPair
from uhrwerk.core.joints.joint import Joint
from uhrwerk.core.joints.leaf_spring import LeafSpringPair
from uhrwerk.core.joints.linear_spring import LinearSpring
from uhrwerk.core.joints.load import Load
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.parallel import Parallel
from uhrwerk.core.joints.perpendicular import Perpendicular
from uhrwerk.core.joints.planar import Planar
from uhrwerk.core.joints.prismatic import Prismatic
from uhrwerk.core.joints.rack_pair import RackPair
from uhrwerk.core.joints.relation import Relation
from uhrwerk.core.joints.resolved_joint import ANGLES, JointDoesNotFit, JointFrame, ResolvedJoint, axes, coordinate_row
from uhrwerk.core.joints.revolute import Revolute
from uhrwerk.core.joints.rigid import Rigid
from uhrwerk.core.joints.screw import Screw
from uhrwerk.core.joints.screw_pair import ScrewPair
from uhrwerk.core.joints.slot_pair import SlotPair
from uhrwerk.core.joints.spherical import Spherical
from uhrwerk.core.joints.spiral_spring import SpiralSpringPair
from uhrwerk.core.joints.spring import SpringPair
from uhrwerk.core.joints.symmetric import Symmetric
from uhrwerk.core.joints.tangent import Tangent
from uhrwerk.core.joints.torque import TorquePair
from uhrwerk.core.joints.torsion_spring import TorsionSpringPair
from uhrwerk.core.joints.torsional_spring import TorsionalSpring
from uhrwerk.core.joints.universal import Universal
from uhrwerk.core.joints.worm_pair import WormPair

JOINTS: Kinds[Joint] = Kinds("joint")
for _joint in (Rigid, Revolute, Prismatic, Cylindrical, Screw, Planar, Spherical, Universal, Held):
    JOINTS.register(_joint)
RELATIONS: Kinds[Relation] = Kinds("relation")
for _relation in (Flush, Concentric, Parallel, Perpendicular, Distance, AngleBetween, Tangent, Symmetric):
    RELATIONS.register(_relation)
PAIRS: Kinds[JointPair] = Kinds("pair")
for _pair in (
    GearPair,
    RackPair,
    SlotPair,
    BevelPair,
    HelicalPair,
    WormPair,
    ScrewPair,
    GenevaPair,
    BeltPair,
    CouplingPair,
    CamPair,
    SpringPair,
    LeafSpringPair,
    TorsionSpringPair,
    SpiralSpringPair,
    ForcePair,
    TorquePair,
):
    PAIRS.register(_pair)

__all__ = [
    "ANGLES",
    "JOINTS",
    "PAIRS",
    "RELATIONS",
    "AngleBetween",
    "At",
    "BeltPair",
    "BevelPair",
    "CamPair",
    "Concentric",
    "CouplingPair",
    "Cylindrical",
    "Distance",
    "Flush",
    "ForcePair",
    "GearPair",
    "GenevaPair",
    "Held",
    "HelicalPair",
    "Joint",
    "JointDoesNotFit",
    "JointFrame",
    "JointPair",
    "LeafSpringPair",
    "LinearSpring",
    "Load",
    "Parallel",
    "Perpendicular",
    "Planar",
    "Prismatic",
    "RackPair",
    "Relation",
    "ResolvedJoint",
    "Revolute",
    "Rigid",
    "Screw",
    "ScrewPair",
    "Side",
    "SlotPair",
    "Spherical",
    "SpiralSpringPair",
    "SpringPair",
    "Symmetric",
    "Tangent",
    "TorquePair",
    "TorsionSpringPair",
    "TorsionalSpring",
    "Universal",
    "WormPair",
    "axes",
    "coordinate_row",
]  # fmt: skip
