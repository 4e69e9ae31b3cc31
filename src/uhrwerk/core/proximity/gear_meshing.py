"""Gears in mesh: which bodies, and how one turns for the other."""

from __future__ import annotations

import numpy as np

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import numbers
from uhrwerk.core.part.design import element_of
from uhrwerk.core.proximity.sweep import Meshing

TOOTHED = {"spur_gear", "ring_gear", "rack"}


def meshes(m: Mechanism, pose: Array) -> dict[tuple[str, str], Meshing]:
    """Every gear or rack pair by the names of both bodies, with how one turns for the other, at an assembled pose (L, 7)."""
    document, out = m.document, {}
    scope = document.scope()
    for pair in document.pairs.values():
        if pair.kind not in ("gear", "rack") or pair.a not in m.link_of or pair.b not in m.link_of:
            continue
        a, b = (numbers(element_of(document, p), scope) for p in (pair.a, pair.b))
        if {a.kind, b.kind} - TOOTHED:
            continue
        first, second = (m.part_pose(p, pose) for p in (pair.a, pair.b))
        z = [poses.rotate(x[3:], np.array([0.0, 0, 1])) for x in (first, second)]
        same = float(np.sign(z[0] @ z[1]))
        pitch = 2 * np.pi / a.teeth
        if pair.kind == "rack":
            out[f"{pair.a}/gear", f"{pair.b}/rack"] = Meshing(pitch, travel=same * a.module * a.teeth / 2)
        else:
            inner = 1.0 if "ring_gear" in (a.kind, b.kind) else -1.0
            out[f"{pair.a}/gear", f"{pair.b}/gear"] = Meshing(pitch, ratio=inner * same * a.teeth / b.teeth)
    return out
