"""Document in, verdicts out, recomputing only what a change touches.

Each stage keeps its results by a hash of exactly what it reads: solids by recipe, the motion by the numbers of its
equations, what was found for a pair by both shapes and the motion. `Evaluator` holds these; it may be shared by threads.
"""

from __future__ import annotations

import hashlib
import itertools
import threading
import time as clock
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core import elements
from uhrwerk.core.assembly import Mechanism, Mobility, NotSolvable, Problem, compile, mobility, solve
from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.checks import Finding, MassOf, Shape, Sweep, Verdict, mass_of, time_ratio, travel
from uhrwerk.core.checks.shape import Pair
from uhrwerk.core.document import Document, Refused, apply, numbers
from uhrwerk.core.document.document import (
    MOVING,
    WHOLE,
    Clearance,
    Determinate,
    MassLimit,
    NoInterference,
    Of,
    TimeRatio,
    Travel,
)
from uhrwerk.core.motion import Coordinate, DeadPoint, Motion, coordinates, cycle
from uhrwerk.core.quantity import display
from uhrwerk.core.solids import BuildFailed, Solid, Workshop, behind, key

Array = NDArray[np.float64]
T = TypeVar("T")
Progress = Callable[[str, float], None]

#: moments at which the clearance asked for is drawn over the cycle
CURVE = 121
#: shared space below this is a touch, m3 (0.0001 mm3)
LEAST_VOLUME = 1e-13


class Cancelled(Exception):
    """The answer is no longer wanted."""


@dataclass
class Evaluation:
    """Everything computed from one document. Stages that could not be reached are None, and `problems` says why.

    `document` has every copy written out; `stated` is what the designer wrote.
    """

    document: Document
    stated: Document
    problems: list[Problem] = field(default_factory=list)
    mechanism: Mechanism | None = None
    solids: dict[str, Solid] = field(default_factory=dict)  # by placed part
    solid_keys: dict[str, str] = field(default_factory=dict)
    mobility: Mobility | None = None
    pose: Array | None = None
    motion: Motion | None = None
    coordinates: dict[str, Coordinate] = field(default_factory=dict)
    findings: list[Finding] = field(default_factory=list)
    masses: dict[str, MassOf] = field(default_factory=dict)  # whole, moving, groups
    part_mass: dict[str, float] = field(default_factory=dict)
    verdicts: dict[str, Verdict] = field(default_factory=dict)
    conflict: list[str] = field(default_factory=list)
    motion_key: str = ""
    seconds: float = 0.0

    @property
    def holds(self) -> bool | None:
        """True: every requirement holds; False: some fail; None: some have no answer."""
        answers = [v.holds for v in self.verdicts.values()]
        return None if None in answers or self.motion is None else all(answers)

    def part_poses(self, at: Array) -> dict[str, Array]:
        """Pose of every placed part from link poses (L, 7)."""
        assert self.mechanism is not None
        return {p: self.mechanism.part_pose(p, at) for p in self.document.placed}


class _Kept:
    """Results by key, the oldest dropped first."""

    def __init__(self, size: int) -> None:
        self.size = size
        self.items: OrderedDict[str, Any] = OrderedDict()
        self.lock = threading.Lock()

    def get(self, name: str, make: Callable[[], T]) -> T:
        with self.lock:
            if name in self.items:
                self.items.move_to_end(name)
                return self.items[name]
        made = make()
        with self.lock:
            self.items[name] = made
            while len(self.items) > self.size:
                self.items.popitem(last=False)
        return made


def _hash(*arrays: Any) -> str:
    digest = hashlib.sha256()
    for a in arrays:
        digest.update(a.tobytes() if isinstance(a, np.ndarray) else repr(a).encode())
    return digest.hexdigest()[:32]


def accept(document: Document, command: Any) -> Document:
    """The document after a command. Refused too where an element's sizes do not fit together."""
    after = apply(document, command)
    scope = after.scope()
    faults = []
    for i, part in after.parts.items():
        n = numbers(part.element, scope)
        faults += [
            (f"parts.{i}.element.{where}", f"{where.replace('_', ' ')} {why}")
            for where, why in elements.of(n).faults(n)
        ]
    if faults:
        raise Refused(*faults)
    return after


class Evaluator:
    """`folder` keeps solids between runs; `limit` is how many seconds one solid may take."""

    def __init__(self, folder: Path | None = None, limit: float = 30.0) -> None:
        self.workshop = Workshop(folder, limit=limit)
        self._motions, self._pairs, self._curves, self._kept_shapes = _Kept(64), _Kept(20_000), _Kept(500), _Kept(400)

    def evaluate(
        self, document: Document, progress: Progress | None = None, cancelled: Callable[[], bool] | None = None
    ) -> Evaluation:
        """All verdicts of a document. `progress` hears words and a fraction; Cancelled is raised once `cancelled()`."""
        begun = clock.perf_counter()

        def step(words: str, fraction: float) -> None:
            if cancelled is not None and cancelled():
                raise Cancelled
            if progress is not None:
                progress(words, fraction)

        out = Evaluation(document, document)
        step("joints", 0.0)
        out.mechanism = m = compile(document)
        out.document = document = m.document
        out.problems += m.problems
        self._move(out, step)
        step("solids", 0.15)
        self._build(out)
        if out.motion is not None and len(out.solids) == len(document.placed):
            self._weigh(out)
            self._sweep(out, step)
        step("verdicts", 0.98)
        for i, asked in document.requirements.items():
            out.verdicts[i] = self._verdict(out, i, asked)
        out.seconds = clock.perf_counter() - begun
        step("done", 1.0)
        return out

    # stages

    def _move(self, out: Evaluation, step: Progress) -> None:
        document, m = out.document, out.mechanism
        assert m is not None
        scope = document.scope()
        duration = scope.value(document.cycle.duration, "time")
        name = _hash(
            *(x for r in m.rows + m.drives for x in (r.kind, r.a, r.b, r.c, *r.vectors, r.wanted, r.rate, r.sizes, r.owner)),
            m.start, *(link.local[p] for link in m.links for p in link.parts), [link.parts for link in m.links],
            duration, document.cycle.frames,
        )  # fmt: skip

        def make() -> tuple[Any, ...]:
            try:
                pose = solve(m)
            except NotSolvable as error:
                return None, None, error
            try:
                return pose, cycle(m, pose, duration, document.cycle.frames), None
            except DeadPoint as error:
                return pose, None, error

        if m.links:
            step("motion", 0.05)
            out.pose, out.motion, error = self._motions.get(name, make)
            if isinstance(error, NotSolvable):
                out.conflict = error.joints
                out.problems.append(Problem(error.joints[0] if error.joints else "joints", str(error)))
            elif error is not None:
                out.problems.append(Problem("drivers", str(error)))
            if out.pose is not None:
                out.mobility = mobility(document, m, out.pose)
            if out.motion is not None:
                out.coordinates = coordinates(m, out.motion)
                out.problems += _beyond_limits(out)
        out.motion_key = name

    def _build(self, out: Evaluation) -> None:
        document = out.document
        scope = document.scope()
        bad = {p.path.split(".")[1] for p in out.problems if p.path.startswith("parts.")}
        used = {(p.part, p.mirrored) for p in document.placed.values() if p.part not in bad}
        recipes = {}
        for part, image in sorted(used):
            n = numbers(document.parts[part].element, scope)
            recipes[part, image] = elements.of(n).solid(n)
            if image:
                recipes[part, image] = behind(recipes[part, image])
        built = dict(zip(recipes, self.workshop.build_all(recipes.values()), strict=True))
        for (part, _), solid in built.items():
            if isinstance(solid, BuildFailed):
                out.problems.append(Problem(f"parts.{part}", f"{document.parts[part].name}: {solid}"))
        for i, placed in document.placed.items():
            made = built.get((placed.part, placed.mirrored))
            if isinstance(made, Solid):
                out.solids[i], out.solid_keys[i] = made, key(recipes[placed.part, placed.mirrored])

    def _weigh(self, out: Evaluation) -> None:
        document, m = out.document, out.mechanism
        assert m is not None
        assert out.motion is not None
        scope = document.scope()
        density = {
            i: scope.value(document.materials[document.parts[p.part].material].density, "density")
            for i, p in document.placed.items()
        }
        where = out.part_poses(out.motion.pose[0])
        groups = {WHOLE: list(document.placed), MOVING: [p for p in document.placed if m.link_of[p] != 0]}
        groups |= {i: g.placed for i, g in document.groups.items()}
        out.masses = {i: mass_of(parts, out.solids, density, where) for i, parts in groups.items()}
        out.part_mass = {p: density[p] * out.solids[p].volume for p in document.placed}

    def shapes(self, out: Evaluation) -> list[Shape]:
        m = out.mechanism
        assert m is not None
        found = []
        for p, solid in out.solids.items():
            if out.document.placed[p].left_out:
                continue
            link = m.link_of[p]
            local = np.asarray(m.links[link].local[p])
            for body in solid.bodies.values():
                name = _hash(out.solid_keys[p], p, body.name, local, link)
                found.append(self._kept_shapes.get(name, partial(Shape, p, body, link, local, name)))
        return found

    def _sweep(self, out: Evaluation, step: Progress) -> None:
        document, m, motion = out.document, out.mechanism, out.motion
        assert m is not None
        assert motion is not None
        asked = [(r.a, r.b) for r in document.requirements.values() if isinstance(r, Clearance)]
        everything = any(isinstance(r, NoInterference) for r in document.requirements.values())
        sweep = Sweep(motion)
        pitches = _pitches(out)
        jobs = []
        for a, b in itertools.combinations(self.shapes(out), 2):
            if a.placed == b.placed:
                continue
            close = any((_is(a, p) and _is(b, q)) or (_is(a, q) and _is(b, p)) for p, q in asked)
            if close or everything:
                jobs.append((a, b, close))
        for at, (a, b, close) in enumerate(jobs):
            if at % 4 == 0:
                step(f"clearances: pair {at + 1} of {len(jobs)}", 0.3 + 0.65 * at / len(jobs))
            pitch = pitches.get(frozenset((a.name, b.name)))
            name = _hash(a.key, b.key, a.name, b.name, out.motion_key, close, pitch)
            precision, limit = (0.0, 4000) if close else (None, 1000)
            find = partial(sweep.find, a, b, precision, limit, pitch)
            out.findings.append(self._pairs.get(name, find))

    # verdicts

    def _verdict(self, out: Evaluation, i: str, asked: Any) -> Verdict:
        document = out.document
        if isinstance(asked, Determinate):
            return _determinate(out, i, asked)
        if out.motion is None or len(out.solids) < len(document.placed) or not document.placed:
            why = out.problems[0].words if out.problems else "there is no part yet"
            return Verdict(i, asked.name, asked.kind, None, f"No answer: {why}")
        scope, shown = document.scope(), document.units
        if isinstance(asked, MassLimit):
            limit = scope.value(asked.at_most, "mass")
            found = out.masses[asked.of]
            word = {WHOLE: "the whole", MOVING: "what moves"}.get(asked.of) or document.groups[asked.of].name
            words = f"{word}: {display(found.mass, 'mass', shown.mass)}, at most {display(limit, 'mass', shown.mass)}"
            return Verdict(
                i,
                asked.name,
                asked.kind,
                found.mass <= limit,
                words,
                found.mass,
                limit,
                "<=",
                "mass",
                error=found.mass * 1e-9,
                basis="volume of the B-rep solids times density",
            )
        if out.problems:  # joints that wait or contradict: distances would be those of another mechanism
            return Verdict(i, asked.name, asked.kind, None, f"No answer: {out.problems[0].words}")
        if isinstance(asked, Travel):
            return _travel(out, i, asked)
        if isinstance(asked, TimeRatio):
            return _time_ratio(out, i, asked)
        if isinstance(asked, NoInterference):
            return self._no_interference(out, i, asked, scope.value(asked.depth, "length"))
        return self._clearance(out, i, asked, scope.value(asked.at_least, "length"))

    def _no_interference(self, out: Evaluation, i: str, asked: NoInterference, limit: float) -> Verdict:
        shown = out.document.units.length
        deep = sorted((f for f in out.findings if self._overlaps(out, f, limit)), key=lambda f: -f.depth)
        if not deep:
            worst = max((f.depth for f in out.findings if f.depth <= limit), default=0.0)
            contacts = sum(f.contact for f in out.findings)
            words = f"no two parts share space deeper than {display(limit, 'length', shown, 3)}"
            words += f"; {contacts} intended contacts" if contacts else ""
            error = max((f.error for f in out.findings if f.depth > 0), default=0.0)
            return Verdict(
                i,
                asked.name,
                asked.kind,
                True,
                words,
                worst,
                limit,
                "<=",
                "length",
                error,
                basis=f"{len(out.findings)} pairs of bodies over the whole cycle",
            )
        f = deep[0]
        words = f"{_named(out, f.a)} and {_named(out, f.b)} overlap by {display(f.depth, 'length', shown, 3)} at {f.time:.4f} s"
        words += f"; {len(deep) - 1} more pairs overlap" if len(deep) > 1 else ""
        return Verdict(
            i, asked.name, asked.kind, False, words, f.depth, limit, "<=", "length", f.error, f.time, (f.a, f.b),
            tuple(map(_tuple, f.points)), f.basis, self._curve(out, f),
        )  # fmt: skip

    def _clearance(self, out: Evaluation, i: str, asked: Clearance, limit: float) -> Verdict:
        shown = out.document.units.length
        bodies = {x: out.solids[x.placed].bodies for x in (asked.a, asked.b)}
        for x in (asked.a, asked.b):
            if x.body is not None and x.body not in bodies[x]:
                return Verdict(
                    i,
                    asked.name,
                    asked.kind,
                    None,
                    f"No answer: {out.document.placed[x.placed].name} has no body {x.body!r} now",
                )
        between = [
            f
            for f in out.findings
            if (_of(f.a, asked.a) and _of(f.b, asked.b)) or (_of(f.a, asked.b) and _of(f.b, asked.a))
        ]
        if not between:
            return Verdict(i, asked.name, asked.kind, None, "No answer: a clearance needs two different parts")
        f = min(between, key=lambda f: f.distance - f.depth)
        value, error, basis = f.distance - f.depth, f.error, f.basis
        if f.depth == 0 and abs(value - limit) < error and f.faces[0] >= 0:
            try:
                exact = self._exact(out, f)
            except BuildFailed as failed:
                close = f"No answer: {display(value, 'length', shown, 4)} ± {display(error, 'length', shown, 4)} is too near the limit, and the exact faces gave none ({failed})"
                return Verdict(i, asked.name, asked.kind, None, close)
            if exact < value + error:
                value, error = exact, max(f.error - self._facets(out, f), 0.0) + 1e-7
                basis += "; exact between the two nearest faces"
        words = f"{_named(out, f.a)} to {_named(out, f.b)}: {display(value, 'length', shown)} at {f.time:.4f} s, at least {display(limit, 'length', shown)}"
        if f.depth:
            words = f"{_named(out, f.a)} and {_named(out, f.b)} overlap by {display(f.depth, 'length', shown, 3)} at {f.time:.4f} s"
        return Verdict(
            i, asked.name, asked.kind, value >= limit - 1e-12, words, value, limit, ">=", "length", error, f.time, (f.a, f.b),
            tuple(map(_tuple, f.points)), basis, self._curve(out, f),
        )  # fmt: skip

    def _facets(self, out: Evaluation, f: Finding) -> float:
        return Pair(*self._two(out, f)).error

    def _two(self, out: Evaluation, f: Finding) -> tuple[Shape, Shape]:
        shapes = {s.name: s for s in self.shapes(out)}
        return shapes[f.a], shapes[f.b]

    def _exact(self, out: Evaluation, f: Finding) -> float:
        """Distance of the two faces that were nearest, by the B-rep kernel, at the worst moment."""
        (steps_a, pose_a), (steps_b, pose_b) = self._posed_steps(out, f)
        return float(self.workshop.call("distance", steps_a, [f.faces[0]], pose_a, steps_b, [f.faces[1]], pose_b)[0])

    def _overlaps(self, out: Evaluation, f: Finding, limit: float) -> bool:
        """Whether an overlap is one: where triangles could be off by as much, the B-rep bodies are asked."""
        if f.depth <= limit:
            return False
        if f.depth > limit + f.error:
            return True
        (steps_a, pose_a), (steps_b, pose_b) = self._posed_steps(out, f)
        try:
            return bool(self.workshop.call("common_volume", steps_a, pose_a, steps_b, pose_b) > LEAST_VOLUME)
        except BuildFailed:
            return True  # the kernel gave no answer: what the triangles say stands

    def _posed_steps(self, out: Evaluation, f: Finding) -> list[tuple[Any, Array]]:
        """Build steps and pose of both bodies of a finding, at its moment."""
        assert out.motion is not None
        scope = out.document.scope()
        links = out.motion.between(np.array([f.time]))[0]
        both = []
        for s in self._two(out, f):
            placed = out.document.placed[s.placed]
            n = numbers(out.document.parts[placed.part].element, scope)
            made = behind(elements.of(n).solid(n)) if placed.mirrored else elements.of(n).solid(n)
            steps = next(b["steps"] for b in made["bodies"] if b["name"] == s.body.name)
            both.append((steps, poses.compose(links[s.link], s.local)))
        return both

    def _curve(self, out: Evaluation, f: Finding) -> Array:
        """(n, 2) time and distance of one pair, over the cycle, for drawing."""
        assert out.motion is not None
        a, b = self._two(out, f)

        def make() -> Array:
            sweep = Sweep(out.motion)  # type: ignore[arg-type]
            times = np.union1d(np.linspace(0, sweep.motion.duration, CURVE), [f.time])
            pair = Pair(a, b)
            return np.array([(t, pair.distance(p)[0]) for t, p in zip(times, sweep.relative(a, b, times), strict=True)])

        return self._curves.get(_hash(a.key, b.key, out.motion_key, f.time), make)


def _determinate(out: Evaluation, i: str, asked: Determinate) -> Verdict:
    found = out.mobility
    if found is None:
        why = out.problems[0].words if out.problems else "there is nothing to move yet"
        return Verdict(i, asked.name, asked.kind, None, f"No answer: {why}")
    too_free = found.undriven + len(found.loose)
    names = [out.document.placed[p].name for p in found.loose]
    words = f"mobility {found.count}, drivers {len(out.document.drivers)}"
    if names:
        words += f"; nothing holds {', '.join(names)}"
    driven = {d.joint for d in out.document.drivers.values()}
    if found.undriven:
        words += "; free: " + "; ".join(f.words for f in found.freedoms if f.joint not in driven)
    return Verdict(
        i,
        asked.name,
        asked.kind,
        too_free == 0,
        words,
        float(too_free),
        0.0,
        "<=",
        "number",
        basis="null space of the joint equations at the assembled pose",
    )


def _pitches(out: Evaluation) -> dict[frozenset[str], float]:
    """The time of one tooth pitch of every gear or rack pair, by the names of both bodies."""
    document, m, motion = out.document, out.mechanism, out.motion
    assert m is not None
    assert motion is not None
    found = {}
    for pair in document.pairs.values():
        if pair.kind not in ("gear", "rack"):
            continue
        relative = motion.velocity[0, m.link_of[pair.a], 3:] - motion.velocity[0, m.link_of[pair.b], 3:]
        turning = float(np.abs(relative).max())
        element = document.parts[document.placed[pair.a].part].element
        teeth = getattr(element, "teeth", 1)
        bodies = frozenset((f"{pair.a}/gear", f"{pair.b}/{'rack' if pair.kind == 'rack' else 'gear'}"))
        found[bodies] = 2 * np.pi / teeth / turning if turning > 1e-9 else motion.duration
    return found


def _beyond_limits(out: Evaluation) -> list[Problem]:
    """Joints that the cycle would take beyond their limits."""
    m, found = out.mechanism, []
    assert m is not None
    assert out.motion is not None
    for c in out.coordinates.values():
        held = m.held[c.joint]
        for name, least, most in held.limits:
            if name != c.name:
                continue
            over = np.maximum(c.value - most, least - c.value)
            at = int(np.argmax(over))
            if over[at] > 1e-7:
                dimension = "angle" if c.turning else "length"
                unit = "deg" if c.turning else out.document.units.length
                reached, limit = (
                    display(float(v), dimension, unit) for v in (c.value[at], most if c.value[at] > most else least)
                )
                first = float(out.motion.times[int(np.argmax(over > 1e-7))])
                words = f"{held.name} would go to {reached}, beyond its limit of {limit}, from {first:.3f} s on"
                found.append(Problem(held.path, words))
    return found


def _coordinate(out: Evaluation, joint: str, turning: bool | None = None) -> Coordinate | None:
    """The coordinate of a joint that a requirement speaks of."""
    own = [c for c in out.coordinates.values() if c.joint == joint and turning in (None, c.turning)]
    return max(own, key=lambda c: float(np.ptp(c.value)), default=None)


def _travel(out: Evaluation, i: str, asked: Travel) -> Verdict:
    turning = bool(asked.turn)
    dimension, unit = ("angle", "deg") if turning else ("length", out.document.units.length)
    limit = out.document.scope().value(asked.turn if turning else asked.slide, dimension)
    c = _coordinate(out, asked.joint, turning)
    if c is None or out.motion is None:
        return Verdict(
            i, asked.name, asked.kind, None, f"No answer: nothing {'turns' if turning else 'slides'} in this joint"
        )
    found = travel(c, out.motion.times)
    words = f"{display(found.value, dimension, unit)} over the cycle, at least {display(limit, dimension, unit)} asked"
    return Verdict(
        i, asked.name, asked.kind, found.value >= limit - 1e-9, words, found.value, limit, ">=", dimension, found.error, found.time,
        basis="joint coordinate over the cycle; its turning points between frames too",
    )  # fmt: skip


def _time_ratio(out: Evaluation, i: str, asked: TimeRatio) -> Verdict:
    limit = out.document.scope().value(asked.at_least, "number")
    c = _coordinate(out, asked.joint)
    found = time_ratio(c, out.motion.times) if c is not None and out.motion is not None else None
    if found is None:
        return Verdict(i, asked.name, asked.kind, None, "No answer: this joint does not go forth and back in the cycle")
    words = f"the slow stroke takes {found.value:.3f} times as long as the fast one, at least {limit:g} asked"
    return Verdict(
        i, asked.name, asked.kind, found.value >= limit - 1e-9, words, found.value, limit, ">=", "number", found.error, found.time,
        basis="moments where the joint's velocity is zero, between frames",
    )  # fmt: skip


def _is(shape: Shape, of: Of) -> bool:
    return shape.placed == of.placed and of.body in (None, shape.body.name)


def _of(name: str, of: Of) -> bool:
    placed, body = name.split("/")
    return placed == of.placed and of.body in (None, body)


def _named(out: Evaluation, name: str) -> str:
    """A body in the designer's words: the placed part, and the body where the part has several."""
    placed, body = name.split("/")
    part = out.document.placed[placed].name
    return f"{part} ({body.replace('_', ' ')})" if len(out.solids[placed].bodies) > 1 else part


def _tuple(v: Array) -> tuple[float, float, float]:
    return float(v[0]), float(v[1]), float(v[2])
