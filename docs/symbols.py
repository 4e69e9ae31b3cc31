"""Small pictures of what has no shape of its own: joints, relations, pairs (after ISO 3952-1 where it has a symbol) and
requirements, as paths in a box of 72 by 48.

Drawn by `docs/pictures.py` with all others.
"""

from __future__ import annotations

__all__ = ["SYMBOLS"]


def circle(x: float, y: float, r: float) -> str:
    return f"M{x - r:g} {y:g}a{r:g} {r:g} 0 1 0 {2 * r:g} 0a{r:g} {r:g} 0 1 0 {-2 * r:g} 0"


def box(x: float, y: float, w: float, h: float) -> str:
    return f"M{x:g} {y:g}h{w:g}v{h:g}h{-w:g}z"


def line(*points: float) -> str:
    pairs = zip(points[::2], points[1::2], strict=True)
    return "M" + "L".join(f"{x:g} {y:g}" for x, y in pairs)


def arrow(x0: float, y0: float, x1: float, y1: float) -> str:
    """A line with a head of 5 at its end."""
    length = ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5
    u, v = 5 * (x1 - x0) / length, 5 * (y1 - y0) / length
    head = line(x1 - u - v / 2, y1 - v + u / 2, x1, y1, x1 - u + v / 2, y1 - v - u / 2)
    return line(x0, y0, x1, y1) + head


def zigzag(x: float, y: float, count: int, step: float = 4, height: float = 6) -> str:
    return line(*(c for i in range(count + 1) for c in (x + i * step, y + (height if i % 2 else -height))))


def gear(x: float, y: float, r: float) -> str:
    """A wheel with short strokes for teeth."""
    strokes = "".join(
        line(x + a * r, y + b * r, x + a * (r + 3), y + b * (r + 3))
        for a, b in ((1, 0), (0.71, 0.71), (0, 1), (-0.71, 0.71), (-1, 0), (-0.71, -0.71), (0, -1), (0.71, -0.71))
    )
    return circle(x, y, r) + strokes


#: the ground, hatched, from x to x + w
def ground(x: float, y: float, w: float) -> str:
    return line(x, y, x + w, y) + "".join(line(x + i, y + 5, x + i + 5, y) for i in range(2, int(w) - 4, 6))


#: axes of a chart, in which a limit is dashed and a curve drawn
CHART = line(12, 6, 12, 42, 64, 42)
LIMIT = "".join(line(x, 14, x + 4, 14) for x in range(16, 62, 8))
WAVE = "M14 34C22 34 24 18 34 18S50 36 62 30"

SYMBOLS: dict[str, dict[str, str]] = {
    "joint": {
        "rigid": line(8, 24, 64, 24) + line(36, 24, 36, 8) + "M36 17L43 24M36 13L47 24M36 9L51 24",
        "revolute": circle(36, 24, 6) + line(4, 24, 30, 24) + line(40, 20, 64, 8),
        "prismatic": box(20, 16, 32, 16) + line(4, 24, 68, 24),
        "cylindrical": box(20, 14, 32, 20) + line(4, 24, 68, 24) + "M58 16a4 8 0 0 1 0 16" + line(58, 32, 61, 29),
        "screw": box(20, 14, 32, 20) + line(4, 24, 20, 24) + zigzag(20, 24, 8) + line(52, 24, 68, 24),
        "planar": line(14, 20, 58, 20) + line(14, 28, 58, 28) + line(36, 20, 36, 6) + line(36, 28, 36, 42),
        "spherical": circle(36, 24, 7) + "M45 15a13 13 0 1 0 0 18" + line(43, 24, 66, 24) + line(23, 24, 4, 24),
        "universal": "M30 8a18 18 0 0 0 0 32" + "M42 8a18 18 0 0 1 0 32" + line(30, 24, 42, 24) + line(36, 14, 36, 34) + line(4, 24, 22, 24) + line(50, 24, 68, 24),
        "held": box(12, 12, 22, 24) + box(38, 18, 22, 18) + line(34, 26, 38, 26) + line(34, 30, 38, 30),
    },
    "relation": {
        "flush": box(10, 20, 24, 20) + box(38, 20, 24, 20) + "".join(line(x, 20, x + 4, 20) for x in (2, 34, 66)),
        "concentric": circle(36, 24, 8) + circle(36, 24, 17) + line(36, 2, 36, 46) + line(14, 24, 58, 24),
        "parallel": line(14, 38, 40, 8) + line(32, 40, 58, 10),
        "perpendicular": line(10, 38, 62, 38) + line(30, 38, 30, 6) + line(30, 31, 37, 31, 37, 38),
        "distance": line(14, 8, 14, 40) + line(58, 8, 58, 40) + arrow(36, 24, 57, 24) + arrow(36, 24, 15, 24),
        "angle": line(60, 40, 12, 40, 50, 8) + "M44 40a32 32 0 0 0 -8 -20",
        "tangent": circle(32, 22, 14) + line(8, 36, 64, 36),
        "corners": "M30 40V22H8M30 22L44 8" + "M40 44V30H64M40 30L54 16",
        "holes": box(8, 6, 36, 24) + box(28, 18, 36, 24) + circle(36, 24, 3) + circle(17, 14, 3) + circle(55, 34, 3),
        "symmetric": "M28 12L10 20L28 36Z" + "M44 12L62 20L44 36Z" + "".join(line(36, y, 36, y + 5) for y in range(3, 46, 9)),
    },
    "pair": {
        "gear": gear(22, 24, 11) + gear(52, 24, 11),
        "rack": gear(36, 18, 11) + line(6, 40, 66, 40) + "".join(line(x, 34, x, 40) for x in range(10, 66, 7)),
        "slot": "M20 16h32a8 8 0 0 1 0 16h-32a8 8 0 0 1 0 -16z" + circle(30, 24, 8),
        "bevel": "M10 14L30 20V28L10 34Z" + "M36 44L42 30H52L58 44Z" + line(4, 24, 10, 24) + line(47, 44, 47, 48),
        "helical": box(10, 8, 24, 32) + box(38, 8, 24, 32) + "".join(line(x, 38, x + 8, 10) for x in (12, 19, 24)) + "".join(line(x + 8, 38, x, 10) for x in (40, 46, 52)),
        "worm": circle(36, 16, 11) + box(14, 29, 44, 12) + "".join(line(x, 41, x + 6, 29) for x in range(16, 54, 7)) + line(4, 35, 14, 35) + line(58, 35, 68, 35),
        "screw_nut": box(24, 8, 24, 32) + zigzag(6, 24, 15),
        "geneva": "M40 6L56 12L62 24L56 36L40 42M40 6L44 20L40 24L44 28L40 42" + circle(20, 24, 13) + circle(31, 24, 2),
        "belt": circle(18, 24, 12) + circle(54, 24, 7) + line(19, 12, 55, 17) + line(19, 36, 55, 31),
        "coupling": box(12, 14, 20, 20) + box(40, 14, 20, 20) + line(2, 24, 12, 24) + line(60, 24, 70, 24) + line(32, 19, 40, 19) + line(32, 29, 40, 29),
        "cam": "M30 40a13 13 0 0 1 -6 -24q12 -12 20 2q8 22 -14 22z" + circle(30, 28, 2) + circle(35, 5, 5),
        "spring": line(4, 24, 16, 24) + zigzag(16, 24, 10, 4, 9) + line(56, 24, 68, 24),
        "leaf_spring": ground(6, 36, 18) + "M14 36C14 20 34 16 60 14" + circle(58, 19, 4),
        "torsion_spring": circle(36, 20, 9) + circle(36, 20, 12) + line(27, 22, 8, 42) + line(45, 22, 64, 42),
        "spiral_spring": "M36 24a3 3 0 0 1 6 0a7 7 0 0 1 -14 0a11 11 0 0 1 22 0a15 15 0 0 1 -30 0a19 19 0 0 1 19 -19h20",
        "force": arrow(6, 24, 44, 24) + box(45, 10, 20, 28),
        "torque": circle(36, 26, 5) + "M20 32a17 17 0 1 1 32 0" + line(46, 29, 52, 32, 55, 26),
    },
    "requirement": {
        "no_interference": "M10 12h30v10h-12v14h-18z" + box(32, 26, 28, 14),
        "clearance": box(8, 10, 20, 28) + circle(52, 24, 13) + arrow(34, 24, 29, 24) + arrow(34, 24, 38, 24),
        "mass": "M24 18h24l10 24h-44z" + circle(36, 12, 5),
        "determinate": circle(14, 36, 4) + circle(26, 12, 4) + circle(54, 18, 4) + circle(60, 36, 4) + line(16, 32, 24, 16) + line(30, 13, 50, 17) + line(55, 22, 59, 32) + ground(6, 41, 60),
        "travel": box(8, 18, 14, 12) + line(4, 34, 68, 34) + arrow(26, 24, 62, 24),
        "time_ratio": CHART + line(12, 42, 48, 12, 62, 42),
        "turning_speed": circle(36, 30, 4) + "M16 34a21 21 0 1 1 40 0" + line(36, 26, 48, 14),
        "wanted_motion": CHART + "M14 38h10C34 38 32 12 42 12h20" + circle(24, 38, 3) + circle(42, 12, 3),
        "pressure_angle": "M8 44C20 20 50 20 66 38" + arrow(36, 24, 36, 4) + line(36, 24, 52, 8) + "M36 13a11 11 0 0 1 8 3",
        "contact_kept": circle(36, 14, 9) + "M8 40C20 22 50 20 66 36" + arrow(54, 2, 46, 8),
        "curve_limit": CHART + LIMIT + WAVE,
        "misalignment": line(4, 20, 34, 20) + line(38, 24, 68, 30) + box(14, 14, 16, 12) + "M40 18l16 3l-2 13l-16 -3z",
        "spring_strength": line(36, 2, 36, 6) + "M26 8h20l-20 6h20l-20 6h20l-20 6h20l-20 6h20l-20 6" + ground(20, 41, 32),
        "centre_of_gravity": circle(36, 24, 15) + "M36 24V9A15 15 0 0 1 51 24ZM36 24V39A15 15 0 0 1 21 24Z",
        "balance_grade": circle(36, 24, 18) + circle(36, 24, 3) + circle(46, 15, 4),
        "shaking_force": box(22, 8, 28, 22) + ground(14, 36, 44) + line(28, 30, 28, 36) + line(44, 30, 44, 36) + "M14 12q-4 6 0 12M8 10q-5 8 0 16M58 12q4 6 0 12M64 10q5 8 0 16",
        "print_gap": "".join(line(10, y, 62, y) for y in (8, 13, 18)) + "".join(line(10, y, 62, y) for y in (30, 35, 40)) + arrow(20, 24, 20, 19) + arrow(20, 24, 20, 29),
        "fit": box(8, 8, 56, 9) + box(8, 31, 56, 9) + box(2, 20, 68, 8),
        "gear_mesh": "M6 44L16 20H22L32 44H42L52 20H58L66 40" + "M22 4L30 28H40L48 4",
        "wall_thickness": "M10 40V8H62V40H52V18H20V40Z" + arrow(2, 30, 9, 30) + arrow(28, 30, 21, 30),
        "shaking_moment": box(24, 10, 24, 20) + ground(14, 36, 44) + "M18 22a18 16 0 0 1 6 -18M54 22a18 16 0 0 0 -6 -18" + line(20, 8, 24, 4, 27, 9) + line(45, 9, 48, 4, 52, 8),
        "drive_effort": circle(24, 24, 13) + line(18, 30, 18, 18, 24, 26, 30, 18, 30, 30) + line(37, 24, 50, 24) + "M54 14a12 12 0 0 1 0 20" + line(60, 30, 54, 34, 53, 27),
        "joint_force": circle(36, 24, 7) + line(4, 24, 29, 24) + line(41, 19, 62, 8) + arrow(36, 46, 36, 33),
        "pin_shear": box(8, 6, 40, 12) + box(24, 30, 40, 12) + box(30, 2, 12, 44) + arrow(66, 12, 52, 12) + arrow(6, 36, 20, 36),
        "pin_bending": "M8 18Q36 36 64 18M8 28Q36 46 64 28" + arrow(36, 4, 36, 25),
        "bearing_pressure": "M12 6V42H60V6H48a12 12 0 0 1 -24 0z" + "".join(arrow(x, 4, x, y) for x, y in ((30, 14), (36, 17), (42, 14))),
        "tooth_bending": "M10 44H24Q30 30 31 8H41Q42 30 48 44H62" + arrow(64, 12, 43, 12),
    },
}  # fmt: skip
