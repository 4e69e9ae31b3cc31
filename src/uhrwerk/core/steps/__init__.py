"""Build steps, one file a kind: how a part is made from what was there before. A new one is a file like the others and its
line below."""

from uhrwerk.core.steps.cut import Cut
from uhrwerk.core.steps.edges import Edges
from uhrwerk.core.steps.extrude import Extrude
from uhrwerk.core.steps.hole import AtPoints, Hole, OnCircle, OnGrid, OverBores, Spot
from uhrwerk.core.steps.hollow import Hollow, Opening
from uhrwerk.core.steps.move_face import MoveFace
from uhrwerk.core.steps.reference import MARKS, OwnAxis, OwnPlane, OwnPoint
from uhrwerk.core.steps.repeat_steps import Along, Behind, RepeatSteps, Round, Which
from uhrwerk.core.steps.revolve import Revolve
from uhrwerk.core.steps.step import STEPS, BuildStep, StepOption, Under
from uhrwerk.core.steps.taper import Leant, Taper
from uhrwerk.core.steps.thread import Thread

for _step in (
    Extrude,
    Cut,
    Revolve,
    Hole,
    Thread,
    Edges,
    Hollow,
    MoveFace,
    Taper,
    RepeatSteps,
    OwnPlane,
    OwnAxis,
    OwnPoint,
):
    STEPS.register(_step)

__all__ = [
    "MARKS",
    "STEPS",
    "Along",
    "AtPoints",
    "Behind",
    "BuildStep",
    "Cut",
    "Edges",
    "Extrude",
    "Hole",
    "Hollow",
    "Leant",
    "MoveFace",
    "OnCircle",
    "OnGrid",
    "Opening",
    "OverBores",
    "OwnAxis",
    "OwnPlane",
    "OwnPoint",
    "RepeatSteps",
    "Revolve",
    "Round",
    "Spot",
    "StepOption",
    "Taper",
    "Thread",
    "Under",
    "Which",
]  # fmt: skip
