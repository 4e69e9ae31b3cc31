"""Mobility: what is still free, what is too much, in words.

Mobility is the dimension of the Jacobian's null space at the pose (IFToMM terminology 1.3.4: degree of freedom of a
mechanism); redundancy is rows minus rank. Each freedom is told by the joint coordinates that move in it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.assembly.assembly import Mechanism, coordinate_row
from uhrwerk.core.assembly.pose import Array
from uhrwerk.core.assembly.rows import Rows
from uhrwerk.core.assembly.solve import null_space
from uhrwerk.core.document import Document


@dataclass(frozen=True)
class Freedom:
    """One independent motion: words, the joint that leads it (None for a part that nothing holds), and the motion
    (L, 6) of all links for a unit rate of that joint."""

    words: str
    joint: str | None
    motion: Array


@dataclass(frozen=True)
class Mobility:
    freedoms: list[Freedom]  # without the drivers
    redundant: int  # equations that repeat what others say
    undriven: int  # freedoms that no driver takes
    loose: list[str]  # placed parts that nothing holds

    @property
    def count(self) -> int:
        return len(self.freedoms)


def mobility(document: Document, m: Mechanism, pose: Array) -> Mobility:
    """Mobility at an assembled pose (L, 7) in metres. A part that nothing holds is listed, not counted six times."""
    if len(m.links) < 2:
        return Mobility([], 0, 0, m.loose)
    scaled = m.scaled(pose)[None]
    now = np.zeros(1)
    free_links = {m.link_of[p] for p in m.loose}
    held = [k for k in range(1, len(m.links)) if k not in free_links]
    columns = np.array([6 * k + i for k in held for i in range(6)], dtype=int)
    undriven_rows = m.system(drives=False)
    j = undriven_rows.value(scaled, now)[1][0][:, columns]
    null, rank = null_space(j)
    driven = m.system(drives=True).value(scaled, now)[1][0][:, columns]
    left, _ = null_space(driven)
    motions = np.zeros((len(m.links), 6, null.shape[1]))
    motions.reshape(6 * len(m.links), null.shape[1])[columns] = null
    freedoms = _told(document, m, scaled, motions)
    return Mobility(freedoms, len(undriven_rows) - rank, left.shape[1], m.loose)


def _told(document: Document, m: Mechanism, scaled: Array, motions: Array) -> list[Freedom]:
    """Null vectors turned into motions led by one joint each: row-reduced over the joint coordinates, drivers first."""
    driven = [d.joint for d in document.drivers.values() if d.joint in m.frames]
    ids = list(dict.fromkeys([*driven, *m.frames]))
    count = motions.shape[2]
    flat = motions.reshape(6 * len(m.links), count)
    if not count:
        return []
    coordinates = [coordinate_row(m, i, document.joints[i].kind == "revolute", i) for i in ids]
    jc = (
        Rows(coordinates, len(m.links), m.reach).value(scaled, np.zeros(1))[1][0]
        if ids
        else np.zeros((0, flat.shape[0]))
    )
    rates = jc @ flat  # (joints, freedoms)
    freedoms = []
    for at, i in enumerate(ids):
        size = np.linalg.norm(rates[at])
        if size < 1e-7 or not flat.shape[1]:
            continue
        lead = flat @ rates[at] / size**2  # the motion with unit rate of this joint, square to what is left
        direction = rates[at] / size
        keep = np.linalg.svd(direction[None])[2][1:].T
        flat, rates = flat @ keep, rates @ keep
        joint = document.joints[i]
        verb = "turns" if joint.kind == "revolute" else "slides"
        name = document.placed[joint.b.placed].name
        on = document.placed[joint.a.placed].name
        moving = sorted(
            {
                p
                for k in range(1, len(m.links))
                if np.abs(lead[6 * k : 6 * k + 6]).max() > 1e-7
                for p in m.links[k].parts[:1]
            }
        )
        others = len(moving) - 1
        words = f"{name} {verb} in {on}" if verb == "turns" else f"{name} {verb} along {on}"
        freedoms.append(
            Freedom(words + (f"; {others} more links move with it" if others > 0 else ""), i, lead.reshape(-1, 6))
        )
    freedoms += [
        Freedom("parts move together in a way that no single joint shows", None, v.reshape(-1, 6)) for v in flat.T
    ]
    return freedoms
