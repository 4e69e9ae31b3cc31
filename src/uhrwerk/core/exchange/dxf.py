"""DXF: closed lines become outlines of plates; written are the edges of a part's largest flat face.

Lines, arcs, circles and polylines are taken as they are; ellipses and splines as short straight pieces. What does not close,
and every other kind of entity, is left out and told. Entities by the DXF Reference, read and written by ezdxf.
"""

from __future__ import annotations

import io
import math
from collections import Counter
from collections.abc import Sequence
from typing import Any

from ezdxf import edgeminer, edgesmith, recover, upright
from ezdxf.entities.dxfentity import DXFEntity
from ezdxf.entities.lwpolyline import LWPolyline
from ezdxf.filemanagement import new
from ezdxf.lldxf.const import DXFError

from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.exchange.profile import Loop, profile
from uhrwerk.core.solids.imported import ImportedDesign, ImportedSolids, ImportedUse
from uhrwerk.core.stages.evaluation import Evaluation

#: entities of a drawing, closed lines in it, corners of an outline, at most
ENTITIES, LOOPS, CORNERS = 20_000, 2_000, 8_000
#: ends that are no farther apart meet, and straight pieces stray so far from splines, m
GAP, STRAY = 1e-6, 5e-6
#: thickness of plates until it is stated
PLATE = "5 mm"
#: $INSUNITS (DXF Reference, HEADER section), m
_UNITS = {1: 0.0254, 2: 0.3048, 4: 1e-3, 5: 1e-2, 6: 1.0, 9: 0.0254e-3, 10: 0.9144, 13: 1e-6, 14: 0.1}
_CLOSED, _OPEN = ("CIRCLE", "LWPOLYLINE", "POLYLINE", "ELLIPSE", "SPLINE"), ("LINE", "ARC", "LWPOLYLINE", "POLYLINE", "ELLIPSE", "SPLINE")  # fmt: skip
_PARTS_OF_ENTITIES = (b"VERTEX", b"ATTRIB", b"SEQEND")

Corners = list[tuple[float, float, float]]  # x, y, bulge of the way to the next; m


def _read(data: bytes, metre: float) -> ImportedSolids:
    _check_counts(data)
    try:
        drawing, _ = recover.read(io.BytesIO(data))
    except (DXFError, OSError, UnicodeError) as error:
        raise ValueError("this is not a DXF file, or it is damaged") from error
    entities = list(drawing.modelspace())
    _check_count(len(entities), "entities", ENTITIES)
    upright.upright_all(entities)  # what is seen from below is turned round
    unit = int(drawing.header.get("$INSUNITS", 0) or 0)
    scale = _UNITS.get(unit, metre)
    loops, skipped = _loops(entities, scale)
    _check_count(len(loops), "closed lines", LOOPS)
    if not loops:
        raise ValueError("no line in it closes" if skipped else "there is no line in its model space")
    designs = []
    for k, (outer, holes) in enumerate(_nested(loops), 1):
        outline = _outline(outer) if not holes else {"kind": "difference", "of": {
            "outer": _outline(outer), **{f"hole_{n}": _outline(h) for n, h in enumerate(holes, 1)},
        }}  # fmt: skip
        step = {"kind": "extrude", "name": "Plate", "outline": outline, "length": PLATE}
        name = "Plate" if k == 1 else f"Plate {k}"
        designs.append(ImportedDesign(name, b"", part={"element": {"kind": "blank"}, "steps": {"plate": step}}))
    said = [f"left out: {', '.join(f'{n} {what}' for what, n in sorted(skipped.items()))}"] if skipped else []
    every = [c for loop in loops for c in loop]
    size = max(max(c[k] for c in every) - min(c[k] for c in every) for k in (0, 1))
    uses = [ImportedUse(k, d.name, [0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0]) for k, d in enumerate(designs)]
    return ImportedSolids(designs, uses, said, unitless=unit not in _UNITS, size=size)


def _check_counts(data: bytes) -> None:
    """Refuses what is too much before it is read, by the tags alone (DXF Reference, "Group Codes": lines in pairs of code and value).
    Of a file in binary form, or whose lines are not in pairs, nothing is known here."""
    lines = data.split(b"\n")
    kinds: Counter[bytes] = Counter()
    inside = False
    for code, value in zip(lines[0::2], lines[1::2], strict=False):
        tag = code.strip()
        if tag == b"2" and value.strip() == b"ENTITIES":
            inside = True
        elif tag == b"0":
            if value.strip() == b"ENDSEC":
                inside = False
            elif inside:
                kinds[value.strip()] += 1
    _check_count(sum(n for kind, n in kinds.items() if kind not in _PARTS_OF_ENTITIES), "entities", ENTITIES)
    _check_count(kinds[b"CIRCLE"], "closed lines", LOOPS)


def _check_count(count: int, what: str, most: int) -> None:
    if count > most:
        raise ValueError(f"there are {count} {what} in it; {most} are read at most")


def _loops(entities: Sequence[DXFEntity], scale: float) -> tuple[list[Corners], Counter[str]]:
    """Closed lines as corners, and how many entities of which kind are left out."""
    loops: list[Corners] = []
    skipped: Counter[str] = Counter()
    edges: list[edgeminer.Edge] = []
    for e in entities:
        kind = e.dxftype()
        if kind in (*_OPEN, *_CLOSED) and not _level(e):
            skipped[f"{kind} that is not level"] += 1
        elif kind in _CLOSED and edgesmith.is_closed_entity(e):
            loops.append(_corners(e, scale))
        elif kind in _OPEN:
            edges.extend(edgesmith.edges_from_entities_2d([e], gap_tol=GAP / scale))
        else:
            skipped[kind] += 1
    chains = edgeminer.find_all_simple_chains(edgeminer.Deposit(edges, gap_tol=GAP / scale)) if edges else []
    for chain in chains:
        if edgeminer.is_loop(chain, gap_tol=GAP / scale):
            loops.append(_of_line(edgesmith.lwpolyline_from_chain(chain, max_sagitta=STRAY / scale), scale))
        else:
            skipped["lines that do not close"] += len(chain)
    good = [loop for loop in loops if len(loop) >= 2]
    if any(len(loop) > CORNERS for loop in good):
        raise ValueError(f"an outline in it has more than {CORNERS} corners")
    if not all(math.isfinite(v) and abs(v) < 1e3 for loop in good for c in loop for v in c[:2]):
        raise ValueError("it reaches farther than 1,000 m, or has sizes that are no numbers: its unit is wrong")
    return good, skipped


def _level(e: Any) -> bool:
    """Whether an entity lies in a plane along x and y: seen from above nothing of it is foreshortened."""
    kind = e.dxftype()
    if kind != "LINE" and abs(e.dxf.extrusion.z) < 1 - 1e-9:
        return False
    if kind == "POLYLINE" and not (e.is_2d_polyline or e.is_3d_polyline):
        return False
    heights = {
        "LINE": lambda: [e.dxf.start.z, e.dxf.end.z],
        "SPLINE": lambda: [p[2] for p in e.control_points],
        "POLYLINE": lambda: [v.dxf.location.z for v in e.vertices],
        "ELLIPSE": lambda: [0.0, e.dxf.major_axis.z],
    }.get(kind, lambda: [0.0])()
    return max(heights, default=0.0) - min(heights, default=0.0) < 1e-9


def _corners(e: Any, scale: float) -> Corners:
    """A closed entity's corners."""
    if e.dxftype() == "CIRCLE":
        (x, y, *_), r = e.dxf.center, e.dxf.radius
        return [((x - r) * scale, y * scale, 1.0), ((x + r) * scale, y * scale, 1.0)]
    if e.dxftype() == "LWPOLYLINE":
        return _of_line(e, scale)
    if e.dxftype() == "POLYLINE":
        return _whole([(v.dxf.location.x * scale, v.dxf.location.y * scale, v.dxf.bulge) for v in e.vertices])
    points = [(p.x * scale, p.y * scale, 0.0) for p in e.flattening(STRAY / scale)]
    return _whole(points)


def _of_line(e: LWPolyline, scale: float) -> Corners:
    return _whole([(x * scale, y * scale, bulge) for x, y, bulge in e.get_points("xyb")])


def _whole(corners: Corners) -> Corners:
    """Corners without those that lie on the one before."""
    out: Corners = []
    for c in corners:
        if not out or math.hypot(c[0] - out[-1][0], c[1] - out[-1][1]) > GAP:
            out.append(c)
        else:
            out[-1] = c
    if len(out) > 1 and math.hypot(out[0][0] - out[-1][0], out[0][1] - out[-1][1]) <= GAP:
        out.pop()
    return out


def _nested(loops: list[Corners]) -> list[tuple[Corners, list[Corners]]]:
    """Outer lines, each with the holes that lie directly within it."""
    sizes = [abs(_area(loop)) for loop in loops]
    order = sorted(range(len(loops)), key=lambda k: -sizes[k])
    depth, inside = {}, {}
    for n, k in enumerate(order):
        round_it = [j for j in order[:n] if _within(loops[k][0], loops[j])]
        depth[k] = len(round_it)
        inside[k] = round_it[-1] if round_it else -1
    return [(loops[k], [loops[j] for j in order if inside[j] == k and depth[j] % 2]) for k in order if not depth[k] % 2]


def _area(loop: Corners) -> float:
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(loop, [*loop[1:], loop[0]], strict=True)) / 2 + sum(
        _segment(a, b) for a, b in zip(loop, [*loop[1:], loop[0]], strict=True)
    )


def _segment(a: tuple[float, float, float], b: tuple[float, float, float]) -> float:
    """The area between a chord and its arc."""
    if not a[2]:
        return 0.0
    angle, chord = 4 * math.atan(a[2]), math.hypot(b[0] - a[0], b[1] - a[1])
    radius = chord / 2 / math.sin(abs(angle) / 2)
    return math.copysign(radius**2 * (abs(angle) - math.sin(abs(angle))) / 2, angle)


def _within(point: tuple[float, float, float], loop: Corners) -> bool:
    """Whether a point lies within a closed line, its arcs as short straight pieces."""
    x, y, _ = point
    odd, corners = False, [p for a, b in zip(loop, [*loop[1:], loop[0]], strict=True) for p in _pieces(a, b)]
    for (x1, y1), (x2, y2) in zip(corners, [*corners[1:], corners[0]], strict=True):
        if (y1 > y) != (y2 > y) and x < x1 + (y - y1) / (y2 - y1) * (x2 - x1):
            odd = not odd
    return odd


def _pieces(a: tuple[float, float, float], b: tuple[float, float, float]) -> list[tuple[float, float]]:
    if not a[2]:
        return [(a[0], a[1])]
    p, q, angle = complex(*a[:2]), complex(*b[:2]), 4 * math.atan(a[2])
    centre = (p + q) / 2 + 1j * (q - p) / 2 / math.tan(angle / 2)
    turned = [centre + (p - centre) * complex(math.cos(t), math.sin(t)) for t in (angle * k / 16 for k in range(16))]
    return [(z.real, z.imag) for z in turned]


def _outline(loop: Corners) -> dict[str, Any]:
    """A closed line as an outline of a build step."""
    if len(loop) == 2 and loop[0][2] == loop[1][2] == 1.0:
        (x1, y1, _), (x2, y2, _) = loop
        return {"kind": "circle", "diameter": _mm(math.hypot(x2 - x1, y2 - y1)), "x": _mm((x1 + x2) / 2), "y": _mm((y1 + y2) / 2)}  # fmt: skip
    return {"kind": "traced", "corners": {
        f"c{k}": {"x": _mm(x), "y": _mm(y), **({"bulge": f"{bulge:.12g}"} if bulge else {})} for k, (x, y, bulge) in enumerate(loop, 1)
    }}  # fmt: skip


def _mm(si: float) -> str:
    return f"{si * 1e3:.9g} mm"


def _written(e: Evaluation, chosen: Chosen) -> bytes:
    drawing = new("R2010", units=4)
    space = drawing.modelspace()
    for loop in profile(e, chosen):
        _draw(space, loop)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode(drawing.encoding)


def _draw(space: Any, loop: Loop) -> None:
    if loop.circle is not None:
        (x, y), r = loop.circle
        space.add_circle((x * 1e3, y * 1e3), r * 1e3)
    else:
        space.add_lwpolyline([(x * 1e3, y * 1e3, b) for x, y, b in loop.corners], format="xyb", close=True)


FORMAT = Format(".dxf", "Outline of a part", "image/vnd.dxf", write=_written, take=_read, alone=True)
