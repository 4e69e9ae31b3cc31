"""Mobility: what is still free, what is too much, in words.

Mobility is the dimension of the Jacobian's null space at the pose (IFToMM terminology 1.3.4: degree of freedom of a
mechanism); redundancy is rows minus rank. Each freedom is told by the joint coordinates that move in it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.assembly.mechanism import Mechanism
from uhrwerk.core.document import Document
from uhrwerk.core.equations.newton import null_space
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Rows
from uhrwerk.core.joints.resolved_joint import coordinate_row


@dataclass(frozen=True)
class Freedom:
    """One independent motion: words, the joint and coordinate that lead it (None where no single joint shows it), and
    the motion (L, 6) of all links for a unit rate of that coordinate, positions in reach."""

    words: str
    joint: str | None
    coordinate: str | None
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
    free_links = {m.link_of[p] for p in m.loose}
    fixed = [k for k in range(1, len(m.links)) if k not in free_links]
    columns = np.array([6 * k + i for k in fixed for i in range(6)], dtype=int)
    undriven_rows = m.system(drives=False)
    j = _dense(undriven_rows, scaled)[:, columns]
    null, rank = null_space(j)
    driven = _dense(m.system(drives=True), scaled)[:, columns]
    residual, _ = null_space(driven)
    motions = np.zeros((len(m.links), 6, null.shape[1]))
    motions.reshape(6 * len(m.links), null.shape[1])[columns] = null
    freedoms = _freedom_words(document, m, scaled, motions)
    return Mobility(freedoms, len(undriven_rows) - rank, residual.shape[1], m.loose)


def _dense(rows: Rows, scaled: Array) -> Array:
    return np.asarray(rows.dense(rows.value(scaled, np.zeros(1))[1])[0])


#: how each coordinate is told
TOLD = {
    "turn": "{b} turns in {a}", "slide": "{b} slides along {a}", "slide_x": "{b} slides on {a}", "slide_y": "{b} slides on {a}, across",
    "turn_x": "{b} swivels in {a} about x", "turn_y": "{b} swivels in {a} about y", "turn_z": "{b} swivels in {a} about z",
    "bend_x": "{b} bends against {a}", "bend_y": "{b} bends against {a}, across", "swing": "{b} runs along the arc of {a}",
}  # fmt: skip


def _freedom_words(document: Document, m: Mechanism, scaled: Array, motions: Array) -> list[Freedom]:
    """Null vectors turned into motions led by one coordinate each: row-reduced over the coordinates, drivers first."""
    driven = [r.owner for r in m.drives]
    first = {document.drivers[o.split(".")[1]].joint for o in driven}
    coordinates = sorted(m.coordinates(), key=lambda c: c[0] not in first)
    count = motions.shape[2]
    flat = motions.reshape(6 * len(m.links), count)
    if not count:
        return []
    jc = np.zeros((0, flat.shape[0]))
    if coordinates:
        jc = _dense(Rows([coordinate_row(m.joints[i], name) for i, name in coordinates], len(m.links), m.reach), scaled)
    rates = jc @ flat  # (coordinates, freedoms)
    freedoms = []
    for at, (i, name) in enumerate(coordinates):
        size = np.linalg.norm(rates[at])
        if size < 1e-7 or not flat.shape[1]:
            continue
        lead = flat @ rates[at] / size**2  # the motion with unit rate of this coordinate, square to what is left
        direction = rates[at] / size
        keep = np.linalg.svd(direction[None])[2][1:].T
        flat, rates = flat @ keep, rates @ keep
        joint = m.joints[i]
        words = TOLD[name].format(a=document.placed[joint.on].name, b=document.placed[joint.part].name)
        others = sum(np.abs(lead[6 * k : 6 * k + 6]).max() > 1e-7 for k in range(1, len(m.links))) - 1
        more = f"; {others} more link{'s move' if others > 1 else ' moves'} with it" if others > 0 else ""
        freedoms.append(Freedom(words + more, i, name, lead.reshape(-1, 6)))
    for v in flat.T:
        parts = [m.links[k].parts[0] for k in range(1, len(m.links)) if np.abs(v[6 * k : 6 * k + 6]).max() > 1e-3]
        names = ", ".join(document.placed[p].name for p in parts[:3]) + (" and more" if len(parts) > 3 else "")
        freedoms.append(Freedom(_unled(names, v.reshape(-1, 6), parts, m), None, None, v.reshape(-1, 6)))
    return freedoms


def _unled(names: str, motion: Array, parts: list[str], m: Mechanism) -> str:
    """A freedom that no joint coordinate shows: a part held by relations alone turns, slides, or both."""
    moving = [motion[m.link_of[p]] for p in parts]
    if moving and all(np.linalg.norm(x[3:]) < 1e-7 for x in moving):
        return f"{names} can slide"
    return f"{names} can turn and slide" if moving else "parts move together in a way that no single joint shows"
