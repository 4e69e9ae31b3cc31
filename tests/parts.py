"""Parts from build steps alone, and their volume and centre of gravity by shapely or a closed form: nothing is shared with
how they are built."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import cos, pi, radians, sin, tan

import numpy as np
import shapely
from shapely.affinity import rotate, translate

from uhrwerk.core.outlines import Circle, Difference, Disc, Hull, Points, Rectangle, Slot, Sum
from uhrwerk.core.outlines import Corner as Pt
from uhrwerk.core.steps import (
    AtPoints,
    BuildStep,
    Cut,
    Edges,
    Extrude,
    Hole,
    Hollow,
    OnCircle,
    OnGrid,
    Opening,
    RepeatSteps,
    Revolve,
    Round,
    Spot,
    Which,
)

FINE = 4096  # sides of a circle here


@dataclass(frozen=True)
class Known:
    """Steps, and what is known of their solid: volume (mm3) and centre of gravity (mm)."""

    steps: Mapping[str, BuildStep]
    volume: float
    centre: tuple[float, float, float]


def disc(x: float, y: float, d: float) -> shapely.Polygon:
    return shapely.Point(x, y).buffer(d / 2, quad_segs=FINE // 4)


def prism(area: shapely.Geometry, low: float, high: float) -> tuple[float, np.ndarray]:
    """Volume, and volume times centre, of an upright prism."""
    volume = area.area * (high - low)
    return volume, volume * np.array([area.centroid.x, area.centroid.y, (low + high) / 2])


def known(steps: Mapping[str, BuildStep], *solids: tuple[float, np.ndarray]) -> Known:
    volume = sum(v for v, _ in solids)
    centre = sum(m for _, m in solids) / volume
    return Known(steps, volume, tuple(centre))


def minus(solid: tuple[float, np.ndarray]) -> tuple[float, np.ndarray]:
    return -solid[0], -solid[1]


def rubber_star() -> Known:
    """A coupling's star: a disc with a bore, six arms with round ends, a round bump on each arm's flank."""
    steps = {
        "disc": Extrude(name="Disc", outline=Difference(of={"a": Circle(diameter="16 mm"), "b": Circle(diameter="8 mm")}), length="10 mm"),
        "arm": Extrude(name="Arm", outline=Slot(length="12 mm", width="5 mm", x="11 mm"), length="10 mm"),
        "arms": RepeatSteps(name="Arms", steps={"a": Which(step="arm")}, how=Round(count=6)),
        "bump": Extrude(name="Bump", outline=Circle(diameter="3 mm", x="13 mm", y="2.5 mm"), length="10 mm"),
        "bumps": RepeatSteps(name="Bumps", steps={"a": Which(step="bump")}, how=Round(count=6)),
    }  # fmt: skip
    arm = shapely.LineString([(5, 0), (17, 0)]).buffer(2.5, quad_segs=FINE // 4)
    one = shapely.union(arm, disc(13, 2.5, 3))
    area = shapely.unary_union(
        [disc(0, 0, 16).difference(disc(0, 0, 8)), *(rotate(one, 60 * k, (0, 0)) for k in range(6))]
    )
    return known(steps, prism(area, 0, 10))


def bracket() -> Known:
    """An angle of two plates with an inner round, four clearance holes for M4 in one and a slot in the other."""
    steps = {
        "foot": Extrude(name="Foot", outline=Rectangle(length="60 mm", width="40 mm"), length="5 mm"),
        "wall": Extrude(name="Wall", plane="foot.end", outline=Rectangle(length="5 mm", width="40 mm", x="-27.5 mm"), length="30 mm"),
        "corner": Edges(name="Corner", which="between two faces", a="foot.end", b="wall.side_2", size="4 mm"),
        "mount": Hole(name="Mount", plane="foot.end", screw="M4", at=OnGrid(column_distance="24 mm", row_distance="24 mm", x="8 mm")),
        "slot": Cut(name="Slot", plane="wall.side_2", outline=Slot(length="10 mm", width="6 mm", y="20 mm"), through=True),
    }  # fmt: skip
    foot = shapely.box(-30, -20, 30, 20)
    for x in (-4, 20):
        for y in (-12, 12):
            foot = foot.difference(disc(x, y, 4.5))
    round_ = 4 * 4 * (1 - pi / 4) * 40
    # of what a square of side r keeps beside its quarter circle: r (10 - 3 pi) / (12 - 3 pi) from its corner
    off = 4 * (10 - 3 * pi) / (12 - 3 * pi)
    slot = (10 * 6 + pi * 9) * 5
    return known(
        steps, prism(foot, 0, 5), prism(shapely.box(-30, -20, -25, 20), 5, 35),
        (round_, round_ * np.array([-25 + off, 0, 5 + off])), minus((slot, slot * np.array([-27.5, 0, 20]))),
    )  # fmt: skip


def tray() -> Known:
    """A box with round corners, hollow and open at the top, and a lip round its rim."""
    steps = {
        "block": Extrude(name="Block", outline=Rectangle(length="50 mm", width="30 mm", corner="5 mm"), length="20 mm"),
        "inside": Hollow(name="Inside", wall="2 mm", open={"a": Opening(face="block.end")}),
    }
    outer = shapely.box(-20, -10, 20, 10).buffer(5, quad_segs=FINE // 4)
    inner = shapely.box(-20, -10, 20, 10).buffer(3, quad_segs=FINE // 4)
    return known(steps, prism(outer, 0, 20), minus(prism(inner, 2, 20)))


def hinge_leaf() -> Known:
    """A leaf with two knuckles along y and three countersunk holes."""
    steps = {
        "leaf": Extrude(name="Leaf", outline=Rectangle(length="30 mm", width="50 mm", x="15 mm"), length="2 mm"),
        "knuckle": Extrude(name="Knuckle", plane="xz", offset="10 mm", length="15 mm", outline=Circle(diameter="8 mm", y="1 mm")),
        "other": Extrude(name="Other knuckle", plane="xz", offset="-25 mm", length="15 mm", outline=Circle(diameter="8 mm", y="1 mm")),
        "pin": Hole(name="Pin bore", plane="knuckle.end", diameter="4 mm", at=AtPoints(spots={"a": Spot(y="1 mm")})),
        "screws": Hole(name="Screws", plane="leaf.end", form="countersunk", diameter="3.4 mm", wide="6 mm", at=AtPoints(
            spots={"a": Spot(x="20 mm", y="-18 mm"), "b": Spot(x="20 mm"), "c": Spot(x="20 mm", y="18 mm")})),
    }  # fmt: skip
    leaf = shapely.box(0, -25, 30, 25)
    knuckle = disc(0, 1, 8)  # in x, z
    rest = knuckle.difference(shapely.box(0, 0, 4, 2))  # what stands out of the leaf
    bore = disc(0, 1, 4)
    solids = [prism(leaf, 0, 2)]
    for low, high in ((-25, -10), (10, 25)):
        for area, sign in (
            (rest, 1),
            (bore.difference(shapely.box(0, 0, 4, 2)), -1),
            (bore.intersection(shapely.box(0, 0, 4, 2)), -1),
        ):
            v = sign * area.area * (high - low)
            solids.append((v, v * np.array([area.centroid.x, (low + high) / 2, area.centroid.y])))
    # the pin's bore goes through the leaf between the knuckles too
    inside = bore.intersection(shapely.box(0, 0, 4, 2))
    v = -inside.area * 20
    solids.append((v, v * np.array([inside.centroid.x, 0, inside.centroid.y])))
    for y in (-18, 0, 18):
        r, big = 1.7, 3.0
        deep = big - r  # 90 degrees
        cone = pi * deep / 3 * (big**2 + big * r + r**2)
        z = 2 - deep / 4 * (big**2 + 2 * big * r + 3 * r**2) / (big**2 + big * r + r**2)
        solids.append(minus((cone, cone * np.array([20, y, z]))))
        straight = pi * r**2 * (2 - deep)
        solids.append(minus((straight, straight * np.array([20, y, (2 - deep) / 2]))))
    return known(steps, *solids)


def clevis() -> Known:
    """A block with a gap, a cross bore and a threaded shank's blank."""
    steps = {
        "block": Extrude(name="Block", outline=Rectangle(length="12 mm", width="12 mm"), length="24 mm"),
        "gap": Cut(name="Gap", plane="block.end", outline=Rectangle(length="12 mm", width="6 mm"), depth="14 mm"),
        "bore": Hole(name="Bore", plane="block.side_1", diameter="5 mm", at=AtPoints(spots={"a": Spot(y="18 mm")})),
        "shank": Extrude(name="Shank", plane="block.start", outline=Circle(diameter="8 mm"), length="15 mm"),
    }  # fmt: skip
    bore = pi * 2.5**2 * 6
    return known(
        steps, prism(shapely.box(-6, -6, 6, 6), 0, 24), minus(prism(shapely.box(-6, -3, 6, 3), 10, 24)),
        minus((bore, bore * np.array([0, 0, 18]))), prism(disc(0, 0, 8), -15, 0),
    )  # fmt: skip


def pulley() -> Known:
    """A pulley with a groove, turned from its half section, with six holes on a circle."""
    steps = {
        "body": Revolve(name="Body", plane="xz", axis="y", outline=Points(corners={
            "a": Pt(x="4 mm"), "b": Pt(x="20 mm"), "c": Pt(x="20 mm", y="2 mm"), "d": Pt(x="16 mm", y="4 mm"), "e": Pt(x="16 mm", y="6 mm"),
            "f": Pt(x="20 mm", y="8 mm"), "g": Pt(x="20 mm", y="10 mm"), "h": Pt(x="4 mm", y="10 mm")})),
        "holes": Hole(name="Holes", plane="body.side_1", diameter="4 mm", at=OnCircle(count=6, diameter="20 mm")),
    }  # fmt: skip
    half = shapely.Polygon([(4, 0), (20, 0), (20, 2), (16, 4), (16, 6), (20, 8), (20, 10), (4, 10)])
    volume = 2 * pi * half.centroid.x * half.area  # Pappus
    return Known(steps, volume - 6 * pi * 4 * 10, (0.0, 0.0, 5.0))


def lever() -> Known:
    """A lever with two bosses of unlike size and height, bored."""
    steps = {
        "arm": Extrude(name="Arm", length="6 mm", outline=Hull(circles={"a": Disc(diameter="20 mm"), "b": Disc(diameter="12 mm", x="50 mm")})),
        "hub": Extrude(name="Hub", plane="arm.end", outline=Circle(diameter="20 mm"), length="4 mm"),
        "other": Extrude(name="Other hub", plane="arm.end", outline=Circle(diameter="12 mm", x="50 mm"), length="2 mm"),
        "bore": Hole(name="Bore", plane="hub.end", diameter="10 mm"),
        "eye": Hole(name="Eye", plane="other.end", diameter="6 mm", at=AtPoints(spots={"a": Spot(x="50 mm")})),
    }  # fmt: skip
    arm = shapely.union(disc(0, 0, 20), disc(50, 0, 12)).convex_hull
    return known(
        steps, prism(arm, 0, 6), prism(disc(0, 0, 20), 6, 10), prism(disc(50, 0, 12), 6, 8),
        minus(prism(disc(0, 0, 10), 0, 10)), minus(prism(disc(50, 0, 6), 0, 8)),
    )  # fmt: skip


def tapered_spigot() -> Known:
    """A spigot that leans inward by five degrees all round: a frustum."""
    steps = {
        "plate": Extrude(name="Plate", outline=Sum(of={"a": Rectangle(length="40 mm"), "b": Circle(x="20 mm", diameter="20 mm")}), length="4 mm"),
        "spigot": Extrude(name="Spigot", plane="plate.end", outline=Circle(diameter="12 mm"), length="10 mm", taper="5 deg"),
    }  # fmt: skip
    plate = shapely.union(shapely.box(-20, -10, 20, 10), disc(20, 0, 20))
    big, small, h = 6.0, 6 - 10 * tan(radians(5)), 10.0
    v = pi * h / 3 * (big**2 + big * small + small**2)
    z = 4 + h / 4 * (big**2 + 2 * big * small + 3 * small**2) / (big**2 + big * small + small**2)
    return known(steps, prism(plate, 0, 4), (v, v * np.array([0, 0, z])))


PARTS: dict[str, Callable[[], Known]] = {
    "rubber star": rubber_star, "bracket": bracket, "tray": tray, "hinge leaf": hinge_leaf, "clevis": clevis, "pulley": pulley,
    "lever": lever, "tapered spigot": tapered_spigot,
}  # fmt: skip

__all__ = ["PARTS", "Known", "cos", "disc", "sin", "translate"]
