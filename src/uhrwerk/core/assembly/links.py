"""Links: placed parts that move as one."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from uhrwerk.core.assembly.mechanism import Link, Mechanism, Problem
from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import TOLERANCE
from uhrwerk.core.equations.pose import IDENTITY, Array
from uhrwerk.core.field import Numbers
from uhrwerk.core.joints import JOINTS


def merged(
    document: Document,
    stated: Mapping[str, Numbers],
    ends: dict[str, tuple[Array, Array]],
    absent: set[str],
    starts: dict[str, Array],
) -> tuple[list[Link], dict[str, int], list[Problem]]:
    """Merges rigidly joined parts; the frame's link comes first, and carries what is left out where it starts."""
    order = sorted(document.placed, key=lambda p: p != document.frame)
    rigid = [(i, n) for i, n in stated.items() if JOINTS[n.kind].fixed]
    near: dict[str, list[tuple[str, Array]]] = {}
    for i, n in rigid:
        fa, fb = ends[i]
        step = poses.compose(fa, poses.inverse(fb))  # b's part in a's part
        near.setdefault(n.a.placed, []).append((n.b.placed, step))
        near.setdefault(n.b.placed, []).append((n.a.placed, poses.inverse(step)))
    link_of: dict[str, int] = {}
    links: list[Link] = []
    problems: list[Problem] = []
    for first in order:
        if first in link_of or first in absent:
            continue
        local, waiting = {first: IDENTITY}, [first]
        while waiting:
            part = waiting.pop()
            for other, move in near.get(part, []):
                if other not in local:
                    local[other] = poses.compose(local[part], move)
                    waiting.append(other)
        for i, n in rigid:
            if n.a.placed in local:
                fa, fb = ends[i]
                gap = poses.between(poses.compose(local[n.a.placed], fa), poses.compose(local[n.b.placed], fb))
                if np.abs(gap).max() > TOLERANCE:
                    names = ", ".join(o.name for _, o in rigid if o.a.placed in local)
                    words = f"{n.name} contradicts the other rigid joints of the same parts ({names})"
                    problems.append(Problem(f"joints.{i}", words))
        if not links:
            still = poses.inverse(starts[first])
            local |= {p: poses.compose(still, starts[p]) for p in absent}
        for part in local:
            link_of[part] = len(links)
        links.append(Link(tuple(local), local))
    return links, link_of, problems


def unconnected(m: Mechanism, absent: set[str]) -> list[str]:
    """Placed parts that no chain of joints ties to the frame."""
    reached, waiting = {0}, [0]
    near: dict[int, set[int]] = {}
    for row in m.rows:
        if row.owner.startswith(("joints.", "relations.")):
            for k in (row.a, row.b, row.c):
                near.setdefault(k, set()).update({row.a, row.b, row.c} - {-1})
    while waiting:
        for k in near.get(waiting.pop(), set()) - reached:
            reached.add(k)
            waiting.append(k)
    return [p for at, link in enumerate(m.links) if at not in reached for p in link.parts if p not in absent]
