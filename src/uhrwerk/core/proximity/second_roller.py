"""A second roller: what holds the follower of a conjugate cam on its other side."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from uhrwerk.core.assembly import Mechanism
from uhrwerk.core.elements.cams.conjugate_cam import second_curve
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.field import numbers
from uhrwerk.core.joints import At
from uhrwerk.core.joints.cam_pair import CamPair
from uhrwerk.core.motion import Motion

#: moments of a period looked at
MOMENTS = 360
#: a roller may stand off its disc by so much more than the stated play, or reach into it, m
NEAR = 5e-6
#: where its gap is the play to so little at all of them, it is where the disc was made for: the gap is the play throughout
SAME = 1e-8


@dataclass(frozen=True)
class SecondRoller:
    """A placed part and its axis that run on a conjugate cam's second disc; the largest play that it has there, m, and whether the
    gap is nothing but the stated play."""

    placed: str
    datum: str
    play: float
    exact: bool


def second_rollers(m: Mechanism, motion: Motion, pair: str) -> list[SecondRoller]:
    """Every pin on the follower's link that runs on the second disc all through the cycle."""
    cam, follower = m.document.pairs[pair].at
    n = numbers(m.document.parts[m.document.placed[cam.placed].part].element, m.document.scope())
    if n.kind != "conjugate_cam":
        return []
    there, link = m.place(cam), m.link_of[follower.placed]
    pose = motion.between(np.linspace(0, motion.period, MOMENTS + 1))
    base = poses.inverse(poses.compose(pose[:, there.link], there.frame))
    line, low, out = second_curve(n), n.width + n.gap, []
    for placed, datums in m.datums.items():
        for name, d in datums.items() if m.link_of[placed] == link else ():
            if d.kind != "axis" or d.side != "pin" or abs(d.radius - n.roller_2 / 2) > NEAR:
                continue
            at = poses.compose(base, poses.compose(pose[:, link], m.place(At(placed=placed, datum=name)).frame))
            up = poses.rotate(at[:, 3:], np.array([0.0, 0, 1]))[:, 2]
            ends = np.stack([at[:, 2] + up * end for end in d.ends])
            gap = line.distance(at[:, :2]).value - d.radius
            beside = (np.abs(up) < 1 - 1e-9) | (ends.max(axis=0) <= low) | (ends.min(axis=0) >= low + n.width)
            if not beside.any() and gap.min() > -NEAR and gap.max() < n.play + NEAR:
                exact = bool(np.abs(gap - n.play).max() < SAME)
                out.append(SecondRoller(placed, name, float(gap.max()), exact))
    return out


def every(m: Mechanism, motion: Motion) -> list[tuple[str, SecondRoller]]:
    """Second rollers of all cam pairs in use."""
    used = {r.owner for r in m.rows}
    pairs = [i for i, p in m.document.pairs.items() if isinstance(p, CamPair) and f"pairs.{i}" in used]
    return [(i, r) for i in pairs for r in second_rollers(m, motion, i)]
