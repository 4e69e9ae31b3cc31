"""The layers of everything on the bed, and what will fuse, hang or be shut in; sampled: each layer is cut just above its middle."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import networkx
import numpy as np
import shapely

from uhrwerk.core.equations.pose import Array
from uhrwerk.core.printing.slices import MM, PrintedBody, Slices
from uhrwerk.core.printing.stack import Stack

Kind = Literal["narrow", "unparted", "overhang", "island", "void"]
#: material may reach beyond the layer below by so many layers: 45 degrees (common practice)
OVERHANG = 1.0
#: strips no wider than twice this are none, beyond what triangles are off, mm
FINE = 1e-3
#: areas below this part of a square line are not printed, and not named
SPECK = 0.5


@dataclass(frozen=True)
class Finding:
    """What was found in layers `first` to `last`: `bodies` are numbers of those concerned, the upper one last. `value`: the least gap,
    mm; the largest area, mm2; the volume, mm3. `place` (3,) mm over the bed. `empty`: layers between an island and what lies below
    it."""

    kind: Kind
    bodies: tuple[int, ...]
    first: int
    last: int
    value: float
    place: tuple[float, float, float]
    empty: int = 0


@dataclass(frozen=True, eq=False)
class Layers:
    """Bodies as layers: regions (mm) of each body in each layer, and what was found."""

    stack: Stack
    line: float
    bodies: tuple[PrintedBody, ...]
    regions: tuple[tuple[shapely.Geometry, ...], ...]
    findings: tuple[Finding, ...]

    @property
    def volume(self) -> float:
        """mm3, of all layers together."""
        return float(sum(r.area for layer in self.regions for r in layer)) * self.stack.height


def layered(bodies: Sequence[PrintedBody], stack: Stack, line: float, gap: float) -> Layers:
    """Cuts bodies (over the bed, see `Bed`) into layers. `line`: how wide a line is, and `gap`: what moving parts must keep, mm.

    Raises
    ------
    ValueError
        Where there would be more than MOST layers.
    """
    slices = [Slices(b) for b in bodies]
    count = stack.count(max((s.high for s in slices), default=0.0))
    if count > MOST:
        raise ValueError(f"{count} layers are more than {MOST}: make them higher")
    regions = tuple(tuple(s.at(stack.middle(k)) for s in slices) for k in range(count))
    wholes = list(_wholes(regions))
    findings = [
        *_narrow(slices, regions, stack, max(line, gap)),
        *_unparted(slices, stack),
        *_hanging(bodies, regions, wholes, stack, line),
        *_voids(wholes, stack, line),
    ]
    return Layers(stack, line, tuple(bodies), regions, tuple(sorted(findings, key=lambda f: (f.first, f.kind))))


#: layers of one mechanism
MOST = 4000


def _wholes(regions: Sequence[Sequence[shapely.Geometry]]) -> Iterator[shapely.Geometry]:
    """Everything in each layer together; the same object where it is as in the layer below."""
    before: Sequence[shapely.Geometry] = ()
    whole: shapely.Geometry = shapely.Polygon()
    for layer in regions:
        if len(before) != len(layer) or not all(
            x is y or (x.is_empty and y.is_empty) for x, y in zip(before, layer, strict=True)
        ):
            whole = shapely.union_all([r for r in layer if not r.is_empty])
        yield whole
        before = layer


def _moving(slices: Sequence[Slices]) -> Iterator[tuple[int, int]]:
    """Bodies that move against one another."""
    for b, other in enumerate(slices):
        for a in range(b):
            if slices[a].body.link != other.body.link:
                yield a, b


def _narrow(
    slices: Sequence[Slices], regions: Sequence[Sequence[shapely.Geometry]], stack: Stack, width: float
) -> Iterator[Finding]:
    """Gaps within a layer, between what moves, narrower than `width`, mm; none is no gap at all."""
    for a, b in _moving(slices):
        one, other = slices[a].box, slices[b].box
        if (one[:2] - other[2:] > width).any() or (other[:2] - one[2:] > width).any():
            continue
        known: dict[tuple[int, int], tuple[float, Array]] = {}
        here: list[Finding] = []
        for k, layer in enumerate(regions):
            x, y = layer[a], layer[b]
            if x.is_empty or y.is_empty:
                continue
            both = id(x), id(y)
            if both not in known:
                shapely.prepare([x, y])
                if not shapely.dwithin(x, y, width):
                    known[both] = (np.inf, np.zeros(2))
                else:
                    line = shapely.get_coordinates(shapely.shortest_line(x, y))
                    known[both] = (float(shapely.distance(x, y)), line.mean(axis=0))
            distance, place = known[both]
            if distance < width:
                at = float(place[0]), float(place[1]), stack.middle(k)
                here.append(Finding("narrow", (a, b), k, k, distance, at))
        yield from _runs(here, least=True)


def _unparted(slices: Sequence[Slices], stack: Stack) -> Iterator[Finding]:
    for a, b in _moving(slices):
        here = []
        for k, shared in stack.unparted(slices[a], slices[b]):
            x, y = shapely.get_coordinates(shapely.point_on_surface(shared))[0]
            upper = (a, b) if slices[b].high >= slices[a].high else (b, a)
            here.append(
                Finding("unparted", upper, k, k, float(shared.area), (float(x), float(y), (k + 1) * stack.height))
            )
        yield from _runs(here)


def _hanging(
    bodies: Sequence[PrintedBody],
    regions: Sequence[Sequence[shapely.Geometry]],
    wholes: Sequence[shapely.Geometry],
    stack: Stack,
    line: float,
) -> Iterator[Finding]:
    """Islands that start in the air, and overhangs beyond 45 degrees, of each body."""
    reach, speck = OVERHANG * stack.height, SPECK * line**2
    islands: list[Finding] = []
    overhangs: list[Finding] = []
    for k in range(1, len(wholes)):
        below = wholes[k - 1]
        spread: shapely.Geometry | None = None
        for b, region in enumerate(regions[k]):
            if region.is_empty or region is regions[k - 1][b]:  # a prism hangs nowhere
                continue
            grounded = []
            for piece in shapely.get_parts(region):
                if piece.area > speck and not shapely.intersects(piece, below):
                    under = _beneath(regions, k, piece)
                    two = (b,) if under is None else (under[1], b)
                    place = _within(piece, stack.middle(k))
                    empty = 0 if under is None else k - under[0] - 1
                    islands.append(Finding("island", two, k, k, float(piece.area), place, empty))
                else:
                    grounded.append(piece)
            if spread is None:
                spread = below.buffer(reach, quad_segs=4)
            slack = FINE + bodies[b].deviation * MM
            free = shapely.difference(shapely.union_all(grounded), spread).buffer(-slack).buffer(slack)
            if free.area > speck:
                overhangs.append(Finding("overhang", (b,), k, k, float(free.area), _within(free, stack.middle(k))))
    yield from islands
    for one in sorted({f.bodies for f in overhangs}):
        yield from _runs([f for f in overhangs if f.bodies == one])


def _beneath(
    regions: Sequence[Sequence[shapely.Geometry]], layer: int, piece: shapely.Geometry
) -> tuple[int, int] | None:
    """The layer and the body next below a piece of a layer, if there is any."""
    for k in range(layer - 1, -1, -1):
        for b, region in enumerate(regions[k]):
            if shapely.intersects(region, piece):
                return k, b
    return None


def _voids(wholes: Sequence[shapely.Geometry], stack: Stack, line: float) -> Iterator[Finding]:
    """Voids from which nothing gets out: empty regions that no way through layers joins to the outside; the bed is outside."""
    reach = networkx.Graph()
    outside = "outside"
    reach.add_node(outside)
    cells: list[tuple[int, shapely.Geometry]] = []
    below: list[tuple[int, shapely.Geometry]] = []  # holes of the layer below
    under: shapely.Geometry = shapely.Polygon()
    for k, whole in enumerate(wholes):
        first = len(cells)
        if k and whole is under:  # as below: each hole goes on
            cells += [(k, hole) for _, hole in below]
            here = [(first + i, hole) for i, (_, hole) in enumerate(below)]
            reach.add_edges_from((n, m) for (n, _), (m, _) in zip(here, below, strict=True))
            below = here
            continue
        holes = _holes(whole)
        cells += [(k, hole) for hole in holes]
        here = [(first + i, hole) for i, hole in enumerate(holes)]
        reach.add_nodes_from(n for n, _ in here)
        touching = [
            (n, m)
            for n, h in here
            for m, b in below
            if shapely.intersects(h, b) and shapely.intersection(h, b).area > SLIVER
        ]
        reach.add_edges_from(touching)
        for n, hole in here:
            beside = [cells[m][1] for i, m in touching if i == n]
            if k == 0 or _left(hole, [under, *beside]) > SLIVER:
                reach.add_edge(n, outside)
        for m, hole in below:
            beside = [cells[n][1] for n, i in touching if i == m]
            if _left(hole, [whole, *beside]) > SLIVER:
                reach.add_edge(m, outside)
        below, under = here, whole
    reach.add_edges_from((m, outside) for m, _ in below)
    for group in networkx.connected_components(reach):
        if outside in group:
            continue
        members = sorted(group)
        volume = sum(cells[m][1].area for m in members) * stack.height
        if volume > SPECK * line**2 * stack.height:
            first, last = cells[members[0]][0], cells[members[-1]][0]
            yield Finding("void", (), first, last, volume, _within(cells[members[0]][1], stack.middle(first)))


#: areas that are nothing, mm2
SLIVER = 1e-6


def _left(region: shapely.Geometry, covers: Sequence[shapely.Geometry]) -> float:
    """The area of a region outside others, mm2."""
    for cover in covers:
        region = shapely.difference(region, cover)
    return float(region.area)


def _holes(whole: shapely.Geometry) -> list[shapely.Geometry]:
    """The regions that a layer shuts in; what stands within a hole is not part of it."""
    out = []
    for piece in shapely.get_parts(whole):
        for ring in shapely.get_rings(piece)[1:]:
            hole = shapely.difference(shapely.polygons(ring), whole)
            out += [h for h in shapely.get_parts(hole) if h.area > 0]
    return out


def _within(region: shapely.Geometry, z: float) -> tuple[float, float, float]:
    x, y = shapely.get_coordinates(shapely.point_on_surface(region))[0]
    return float(x), float(y), z


def _runs(findings: Iterable[Finding], least: bool = False) -> Iterator[Finding]:
    """Findings of one kind and the same bodies, layer by layer, joined where one follows the other; at the greatest
    value of them, or the least."""
    run: Finding | None = None
    for f in findings:
        if run is None or f.first > run.last + 1:
            if run is not None:
                yield run
            run = f
            continue
        worse = f.value < run.value - 1e-9 if least else f.value > run.value + 1e-9
        run = replace(run, last=f.last, value=f.value if worse else run.value, place=f.place if worse else run.place)
    if run is not None:
        yield run
