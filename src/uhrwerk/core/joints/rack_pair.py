"""Rolls on the rack: a pair."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np

from uhrwerk.core.elements import spur_gear
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.equations.rows import Row
from uhrwerk.core.field import Numbers, PlacedId
from uhrwerk.core.joints.mounted import SAME_ANGLE, Mounted, faces, steady
from uhrwerk.core.joints.pair import JointPair
from uhrwerk.core.joints.resolved_joint import JointDoesNotFit, JointFrame, axes


class RackPair(JointPair):
    """Gear a rolls on rack b."""

    title: ClassVar[str] = "Rolls on the rack"
    free: ClassVar[str] = "travel from the teeth"
    made_of: ClassVar[tuple[frozenset[str], frozenset[str]] | None] = (frozenset({"spur_gear"}), frozenset({"rack"}))
    on: ClassVar[tuple[str, str]] = ("axis", "pitch_line")

    kind: Literal["rack"] = "rack"
    a: PlacedId
    b: PlacedId

    @staticmethod
    def rows(
        n: Numbers[RackPair], a: JointFrame, b: JointFrame, sizes: tuple[Numbers, Numbers], owner: str
    ) -> list[Row]:
        gear, rack = sizes
        if gear.kind != "spur_gear" or rack.kind != "rack":
            raise JointDoesNotFit("a rack pair needs a gear and a rack")
        if abs(gear.module - rack.module) > 1e-9 or abs(gear.pressure_angle - rack.pressure_angle) > 1e-9:
            raise JointDoesNotFit("module and pressure angle of gear and rack must be the same to mesh")
        vectors = (a.frame[:3], axes(a.frame)[0], b.frame[:3], *axes(b.frame))
        return [Row("rack", a.link, b.link, vectors, owner, np.pi / gear.teeth, sizes=(gear.teeth, gear.module))]

    @staticmethod
    def ratio(n: Numbers[RackPair], sizes: tuple[Numbers, Numbers], a_turn: Callable[[float], str]) -> str:
        gear = sizes[0]
        return a_turn(np.pi * gear.teeth * gear.module) if gear.kind == "spur_gear" else ""

    @staticmethod
    def mounted(t: Mounted, n: Numbers[RackPair], sizes: tuple[Numbers, Numbers], a: Array, b: Array) -> str:
        gear, rack = sizes
        z = poses.rotate(a[:, 3:], np.array([0.0, 0, 1]))
        y, up = (poses.rotate(b[:, 3:], e) for e in np.eye(3)[1:])
        lean = float(np.arccos(np.clip(np.abs((z * up).sum(axis=1)), 0, 1)).max())
        if lean > 10 * SAME_ANGLE:
            return f"the gear's axis leans {t.angle(lean)} against the rack's teeth, and must stand square to the rack; {t.seat()}"
        height = ((a[:, :3] - b[:, :3]) * y).sum(axis=1)
        moves = steady(t, height, "the height of the gear's axis over the pitch line")
        if moves:
            return moves
        tooth = spur_gear.tooth(gear)
        nominal, real = tooth.pitch_radius + tooth.x * tooth.module, float(height[0])
        if real >= tooth.tip_radius + rack.module or real <= max(
            tooth.root_circle + rack.module, tooth.tip_radius - 1.25 * rack.module
        ):
            way = "nearer" if real > nominal else "farther out"
            return f"the axis of {t.a} stands {t.length(real)} over the pitch line of {t.b}, and meshes at {t.length(nominal)}: bring it {t.length(abs(real - nominal))} {way}; {t.seat()}"
        return faces(t, a, b, gear.width, rack.width)
