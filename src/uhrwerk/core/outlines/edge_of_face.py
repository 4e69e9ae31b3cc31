"""The edge of a face, of the part itself or of another, with a gap."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import Length, Numbers
from uhrwerk.core.field.ref import FaceName, Neighbour
from uhrwerk.core.outlines.outline import Outline, Unfit
from uhrwerk.core.solids.recipe import Outline as Drawn


class EdgeOfFace(Outline):
    """The line round a flat face, or round its first opening, so much larger all round. It lies on the step's plane as it lies
    on its own, whose origin and axes are those of any plane on a face; nothing hangs on where parts stand."""

    title: ClassVar[str] = "Edge of a face"

    kind: Literal["edge_of_face"] = "edge_of_face"
    part: Neighbour = ""
    face: FaceName = ""
    line: Literal["outer", "inner"] = "outer"
    gap: Length = "0 mm"

    @staticmethod
    def outline_data(n: Numbers[EdgeOfFace]) -> Drawn:
        if not n.face:
            raise Unfit("choose the face of its outline")
        return {"rim": {"of_part": n.part, "face": n.face, "inner": n.line == "inner", "gap": n.gap}}
