"""Whether pairs that transmit are mounted so that they can: axes parallel, meeting or crossing as the kind asks, at a
distance at which teeth reach one another, and with faces that overlap. Said in words: what is, what is needed, by how
much to move, and where that number lies.

Mesh at a centre distance: ISO 21771-1 (working pressure angle, contact ratio); bevel axes meet, axes of a worm and its
wheel cross square at a distance (Litvin, Fuentes, Gear Geometry and Applied Theory). From memory.
"""

from __future__ import annotations

from functools import partial

from uhrwerk.core.assembly.mechanism import Mechanism, Problem
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.joints.mounted import Mounted
from uhrwerk.core.part.design import element_of


def mounting(m: Mechanism, at: Array) -> list[Problem]:
    """What is wrong with the mounting of each pair at any of the poses (K, L, 7) m, once for each pair."""
    scope = m.document.scope()
    used = {r.owner for r in m.rows}
    out = []
    for i, pair in m.document.pairs.items():
        path = f"pairs.{i}"
        if path not in used:
            continue
        n = numbers(pair, scope)
        ends = pair.at[0].placed, pair.at[1].placed
        sizes = [numbers(element_of(m.document, p), scope) for p in ends]
        places = [m.place(end) for end in pair.at]
        frames = [poses.compose(at[:, place.link], place.frame) for place in places]
        names = [m.document.placed[p].name for p in ends]
        t = Mounted(
            names[0], names[1], m.document.units.length, partial(_seat, m, ends), (places[0].datum, places[1].datum)
        )
        words = pair.mounted(t, n, (sizes[0], sizes[1]), frames[0], frames[1])
        if words:
            out.append(Problem(path, f"{pair.name}: {words}"))
    return out


def _seat(m: Mechanism, ends: tuple[str, str]) -> str:
    """Where the numbers lie that place b, or a, against the other."""
    document = m.document
    for placed in reversed(ends):
        link = m.link_of[placed]
        for collection in ("joints", "relations"):
            for joint in getattr(document, collection).values():
                for here, there in ((joint.a, joint.b), (joint.b, joint.a)):
                    if m.link_of.get(here.placed) == link and m.link_of.get(there.placed) not in (link, None):
                        datum = there.datum.split("__")[0].replace("_", " ")
                        return (
                            f"{document.placed[placed].name} is placed by {document.placed[there.placed].name}, {datum}"
                        )
    return f"{document.placed[ends[1]].name} stands where it was put"


__all__ = ["mounting"]
