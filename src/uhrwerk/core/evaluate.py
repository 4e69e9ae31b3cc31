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
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core import elements
from uhrwerk.core.assembly import (
    Mechanism,
    Mobility,
    NotSolvable,
    Problem,
    compile,
    contradiction_words,
    mobility,
    mounting,
    solve,
    without_pairs,
)
from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.checks import (
    Finding,
    Form,
    MassOf,
    Meshing,
    Pair,
    Shape,
    Sweep,
    Task,
    Verdict,
    mass_of,
    may_meet,
    time_ratio,
    travel,
)
from uhrwerk.core.checks.course import hashed
from uhrwerk.core.checks.crew import Crew
from uhrwerk.core.checks.sweep import FLANKS
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
from uhrwerk.core.motion import (
    Coordinate,
    Motion,
    TooLong,
    Values,
    coordinates,
    cycle,
    dead_point_words,
    interpolated,
    reversals,
)
from uhrwerk.core.quantity import display
from uhrwerk.core.solids import BuildFailed, Solid, Workshop, behind, key

Array = NDArray[np.float64]
T = TypeVar("T")
Progress = Callable[[str, float], None]

#: moments at which the clearance asked for is drawn over the cycle
CURVE = 121
#: seconds that the distances of one curve may take
DRAWING = 0.15
#: triangles of all forms kept for checks: about a kilobyte each with their boxes
MOST_TRIANGLES = 120_000
#: numbers in all motions kept
MOST_NUMBERS = 10_000_000
#: shared space below this is a touch, m3 (0.0001 mm3)
LEAST_VOLUME = 1e-13
#: triangles that settle what the usual ones leave open stray so far from curved faces, m
FINE = 1e-6
#: distances that differ by no more are the same where a limit is met exactly, m
EXACT = 5e-7


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
    known_apart: int = 0  # pairs of bodies whose boxes never meet
    masses: dict[str, MassOf] = field(default_factory=dict)  # whole, moving, groups
    part_mass: dict[str, float] = field(default_factory=dict)
    verdicts: dict[str, Verdict] = field(default_factory=dict)
    conflict: list[str] = field(default_factory=list)
    sweep: Sweep | None = None
    dead_point: Problem | None = None  # among the problems, where the drive comes to its end
    seconds: float = 0.0

    @property
    def holds(self) -> bool | None:
        """True: every requirement holds; False: some fail; None: some have no answer."""
        answers = [v.holds for v in self.verdicts.values()]
        return None if None in answers or self.motion is None else all(answers)

    @property
    def whole_cycle(self) -> bool:
        """Whether the motion was followed to the end of its cycle."""
        return self.motion is not None and self.motion.stop is None

    def part_poses(self, at: Array) -> dict[str, Array]:
        """Pose of every placed part from link poses (L, 7)."""
        assert self.mechanism is not None
        return {p: self.mechanism.part_pose(p, at) for p in self.document.placed}


class _Kept:
    """Results by key, those used longest ago dropped first, when they weigh more than `most` together."""

    def __init__(self, most: int, weight: Callable[[Any], int] = lambda _: 1) -> None:
        self.most, self.weight, self.total = most, weight, 0
        self.items: OrderedDict[str, Any] = OrderedDict()
        self.lock = threading.Lock()

    def get(self, name: str, make: Callable[[], T]) -> T:
        found = self.seen(name)
        return self.put(name, make()) if found is None else found

    def seen(self, name: str) -> Any:
        """What is kept under a name, or None."""
        with self.lock:
            if name not in self.items:
                return None
            self.items.move_to_end(name)
            return self.items[name]

    def put(self, name: str, made: T) -> T:
        with self.lock:
            if name not in self.items:
                self.total += self.weight(made)
            self.items[name] = made
            while self.total > self.most and len(self.items) > 1:
                self.total -= self.weight(self.items.popitem(last=False)[1])
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
    """`folder` keeps solids between runs; `limit` is how many seconds one solid may take; `workers` is in how many
    processes pairs are swept, or 0 for none but this one."""

    def __init__(self, folder: Path | None = None, limit: float = 30.0, workers: int = 0) -> None:
        self.workshop = Workshop(folder, limit=limit)
        self.crew = Crew(workers) if workers else None
        self._motions = _Kept(MOST_NUMBERS, lambda m: m.weight if isinstance(m, Motion) else 1000)
        self._findings, self._curves = _Kept(20_000), _Kept(300)
        self._forms = _Kept(MOST_TRIANGLES, lambda form: len(form.body.triangles))
        self._recipes, self._volumes = _Kept(600), _Kept(2000)

    def close(self) -> None:
        """Ends all worker processes."""
        self.workshop.close()
        if self.crew is not None:
            self.crew.close()

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

        out = self.moved(document, step)
        document = out.document
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

    def moved(self, document: Document, step: Progress | None = None) -> Evaluation:
        """What can be known of a document without its solids: joints, mobility, motion, coordinates."""
        out = Evaluation(document, document)
        step = step or (lambda words, fraction: None)
        step("joints", 0.0)
        out.mechanism = m = compile(document)
        out.document = m.document
        out.problems += m.problems
        self._move(out, step)
        return out

    # stages

    def _move(self, out: Evaluation, step: Progress) -> None:
        document, m = out.document, out.mechanism
        assert m is not None
        if not m.links:
            return
        duration = document.scope().value(document.cycle.duration, "time")
        equations = _hash(
            *(x for r in m.rows + m.drives for x in (r.kind, r.a, r.b, r.c, *r.vectors, r.wanted, r.rate, r.sizes, r.owner)),
            m.start, *(link.local[p] for link in m.links for p in link.parts), [link.parts for link in m.links],
            [(h.id, h.kind, h.limits) for h in m.held.values()], m.reach,
        )  # fmt: skip

        def assembled() -> Array | NotSolvable:
            try:
                return solve(m)
            except NotSolvable as error:
                return error

        step("motion", 0.05)
        found = self._motions.get(equations, assembled)
        if isinstance(found, NotSolvable):
            out.conflict = found.joints
            path = found.joints[0] if found.joints else "joints"
            if any(o.startswith("pairs.") for o in found.joints):  # perhaps a pair is mounted so that it cannot hold
                out.problems += mounting(m, without_pairs(m)[None])
            out.problems.append(Problem(path, contradiction_words(m, found)))
            return
        pose = found
        out.pose = pose
        out.mobility = mobility(document, m, pose)

        def moved() -> Motion | TooLong:
            try:
                return cycle(m, pose, duration, document.cycle.frames, lambda: step("motion", 0.05))
            except TooLong as error:
                return error

        motion = self._motions.get(_hash(equations, duration, document.cycle.frames), moved)
        if isinstance(motion, TooLong):
            out.problems += mounting(m, pose[None])
            out.problems.append(Problem("cycle.duration", _too_long(out, duration, motion)))
            return
        out.motion = motion
        out.coordinates = coordinates(m, motion)
        out.sweep = Sweep(motion)
        out.problems += mounting(m, motion.track.pose)
        if motion.stop is not None:
            out.dead_point = Problem(m.drives[0].owner, dead_point_words(m, motion.stop))
            out.problems.append(out.dead_point)
        out.problems += _beyond_limits(out)

    def _build(self, out: Evaluation) -> None:
        document = out.document
        bad = {p.path.split(".")[1] for p in out.problems if p.path.startswith("parts.")}
        used = {(p.part, p.mirrored) for p in document.placed.values() if p.part not in bad}
        recipes = {(part, image): self._recipe(document, part, image) for part, image in sorted(used)}
        built = dict(zip(recipes, self.workshop.build_all([r for r, _ in recipes.values()]), strict=True))
        for (part, _), solid in built.items():
            if isinstance(solid, BuildFailed):
                out.problems.append(Problem(f"parts.{part}", f"{document.parts[part].name}: {solid}"))
        for i, placed in document.placed.items():
            made = built.get((placed.part, placed.mirrored))
            if isinstance(made, Solid):
                out.solids[i], out.solid_keys[i] = made, recipes[placed.part, placed.mirrored][1]

    def _recipe(self, document: Document, part: str, image: bool) -> tuple[Any, str]:
        """How a part's solid is made, and the key of that."""
        n = numbers(document.parts[part].element, document.scope())

        def make() -> tuple[Any, str]:
            made = elements.of(n).solid(n)
            made = behind(made) if image else made
            return made, key(made)

        return self._recipes.get(f"{n!r} {image}", make)

    def _weigh(self, out: Evaluation) -> None:
        document, m = out.document, out.mechanism
        assert m is not None
        assert out.motion is not None
        scope = document.scope()
        of_material = {i: scope.value(x.density, "density") for i, x in document.materials.items()}
        density = {i: of_material[document.parts[p.part].material] for i, p in document.placed.items()}
        where = out.part_poses(out.motion.pose[0])
        groups = {WHOLE: list(document.placed), MOVING: [p for p in document.placed if m.link_of[p] != 0]}
        groups |= {i: g.placed for i, g in document.groups.items()}
        out.masses = {i: mass_of(parts, out.solids, density, where) for i, parts in groups.items()}
        out.part_mass = {p: density[p] * out.solids[p].volume for p in document.placed}

    def shapes(self, out: Evaluation) -> list[Shape]:
        """Every body of every placed part that is not left out."""
        m = out.mechanism
        assert m is not None
        found = []
        for p, solid in out.solids.items():
            if not out.document.placed[p].left_out:
                link = m.link_of[p]
                local = np.asarray(m.links[link].local[p])
                found += [Shape(p, self._form(out.solid_keys[p], body), link, local) for body in solid.bodies.values()]
        return found

    def _form(self, solid: str, body: Any) -> Form:
        name = f"{solid}/{body.name}"
        return self._forms.get(name, partial(Form, body, name))

    def _sweep(self, out: Evaluation, step: Progress) -> None:
        asked = [r for r in out.document.requirements.values() if isinstance(r, Clearance)]
        everything = any(isinstance(r, NoInterference) for r in out.document.requirements.values())
        shapes = self.shapes(out)
        sweep = out.sweep
        assert sweep is not None
        scope = out.document.scope()
        limits: dict[tuple[int, int], list[float]] = {}
        for r in asked:
            one, other = ([k for k, s in enumerate(shapes) if _is(s, of)] for of in (r.a, r.b))
            for i, j in itertools.product(one, other):
                if shapes[i].placed != shapes[j].placed:
                    limits.setdefault((min(i, j), max(i, j)), []).append(scope.value(r.at_least, "length"))
        jobs = set(limits)
        if everything:
            step("boxes", 0.28)
            margin = 2 * max((s.form.body.deviation for s in shapes), default=0.0) + 1e-5
            jobs |= set(may_meet(shapes, sweep.track, margin))
            parts = np.unique([s.placed for s in shapes], return_counts=True)[1]
            out.known_apart = int(len(shapes) * (len(shapes) - 1) // 2 - (parts * (parts - 1) // 2).sum()) - len(jobs)
        meshes = _meshes(out)
        tasks = []
        for i, j in sorted(jobs):
            a, b = shapes[i], shapes[j]
            if (b.name, a.name) in meshes:
                a, b = b, a
            meshing = meshes.get((a.name, b.name))
            if meshing is not None:  # flanks are nearer to one another than the usual triangles can tell
                a, b = (replace(x, form=self._fine_form(out, x)) for x in (a, b))
            precision = FLANKS if meshing is not None else 0.0 if (i, j) in limits else None
            tasks.append((a, b, sweep.task(a, b, precision, meshing, tuple(sorted(limits.get((i, j), ()))))))
        found = self._found([task for _, _, task in tasks], step)
        out.findings = [sweep.told(a, b, task, f) for (a, b, task), f in zip(tasks, found, strict=True)]

    def _found(self, tasks: list[Task], step: Progress) -> list[Finding]:
        """Findings of all tasks: those that are kept, and the others by the workers, or here where there are none or few."""
        keys = [task.key() for task in tasks]
        kept = {k: f for k in keys if (f := self._findings.seen(k)) is not None}
        missing = {k: task for k, task in zip(keys, tasks, strict=True) if k not in kept}

        def heard(done: int) -> None:
            step(f"clearances: pair {done + 1} of {len(missing)}", 0.3 + 0.65 * done / max(1, len(missing)))

        if self.crew is not None and len(missing) > 1:
            fresh = self.crew.findings(list(missing.values()), heard)
        else:
            fresh = []
            for done, task in enumerate(missing.values()):
                heard(done)
                fresh.append(task.finding())
        for k, f in zip(missing, fresh, strict=True):
            kept[k] = self._findings.put(k, f)
        return [kept[k] for k in keys]

    # verdicts

    def _verdict(self, out: Evaluation, i: str, asked: Any) -> Verdict:
        document = out.document
        scope = document.scope()

        def no_answer(why: str) -> Verdict:
            return Verdict(i, asked.name, asked.kind, None, f"No answer: {why}")

        if isinstance(asked, Determinate):
            return _determinate(out, i, asked)
        if out.motion is None or len(out.solids) < len(document.placed) or not document.placed:
            return no_answer(out.problems[0].words if out.problems else "there is no part yet")
        if isinstance(asked, MassLimit):
            return _mass(out, i, asked, scope.value(asked.at_most, "mass"))
        beyond = [p for p in out.problems if p is not out.dead_point]
        if beyond:  # joints that wait or contradict: distances would be those of another mechanism
            return no_answer(beyond[0].words)
        if isinstance(asked, Travel):
            found = _travel(out, i, asked)
        elif isinstance(asked, TimeRatio):
            found = _time_ratio(out, i, asked)
        elif isinstance(asked, NoInterference):
            found = self._no_interference(out, i, asked, scope.value(asked.depth, "length"))
        else:
            found = self._clearance(out, i, asked, scope.value(asked.at_least, "length"))
        return found if out.whole_cycle else _up_to_there(out, found)

    def _no_interference(self, out: Evaluation, i: str, asked: NoInterference, limit: float) -> Verdict:
        shown = out.document.units.length
        judged = [(f, *self._overlaps(out, f, limit)) for f in out.findings]
        deep = sorted((f for _, f, overlaps in judged if overlaps), key=lambda f: -f.depth)
        if deep:
            f = deep[0]
            words = f"{_named(out, f.a)} and {_named(out, f.b)} overlap by {display(f.depth, 'length', shown, 3)} at {f.time:.4f} s"
            words += (
                f"; {len(deep) - 1} more pair{'s overlap' if len(deep) > 2 else ' overlaps'}" if len(deep) > 1 else ""
            )
            return Verdict(
                i, asked.name, asked.kind, False, words, f.depth, limit, "<=", "length", f.error, f.time, (f.a, f.b),
                tuple(map(_tuple, f.points)), f.basis, drawn=True,
            )  # fmt: skip
        unsure = [f for _, f, overlaps in judged if overlaps is None]
        if unsure:
            f = min(unsure, key=lambda f: f.distance - f.depth)
            words = f"No answer: {_named(out, f.a)} and {_named(out, f.b)} come within {display(f.distance, 'length', shown, 3)} ± {display(f.error, 'length', shown, 3)}"
            if f.depth:
                words = f"No answer: {_named(out, f.a)} and {_named(out, f.b)} overlap by {display(f.depth, 'length', shown, 4)} ± {display(f.error, 'length', shown, 4)}, too near the limit"
            words += (
                f" at {f.time:.4f} s; whether they touch was not decided. Shorten the cycle, or give them more room"
            )
            return Verdict(
                i,
                asked.name,
                asked.kind,
                None,
                words,
                None,
                limit,
                "<=",
                "length",
                f.error,
                f.time,
                (f.a, f.b),
                basis=f.basis,
            )
        settled = [f for _, f, _ in judged]
        worst = max(settled, key=lambda f: f.depth, default=None)
        contacts = sum(f.contact for f in settled)
        words = f"no two parts share space deeper than {display(limit, 'length', shown, 3)}"
        words += f"; {contacts} intended contact{'s' * (contacts != 1)}" if contacts else ""
        basis = f"{len(settled)} pairs of bodies over the whole cycle"
        basis += f", and {out.known_apart} whose boxes never meet" if out.known_apart else ""
        told = {f.basis.split(":")[0].split(";")[0] for f in settled}
        basis += "; gears in mesh sampled" if "sampled" in told else ""
        basis += "; touches sampled" if any(f.contact and "sampled" in f.basis for f in settled) else ""
        return Verdict(
            i, asked.name, asked.kind, True, words, 0.0 if worst is None else worst.depth, limit, "<=", "length",
            0.0 if worst is None or not worst.depth else worst.error, basis=basis,
        )  # fmt: skip

    def _overlaps(self, out: Evaluation, f: Finding, limit: float) -> tuple[Finding, bool | None]:
        """Whether two bodies overlap more deeply than allowed: yes, no, or None where even fine triangles and the true bodies
        do not tell. Also the finding that decided it."""
        if f.depth > limit + f.error:
            return f, True
        if not f.decided:
            return f, None
        if f.apart and f.depth == 0 and (not f.contact or "exactly" in f.basis):
            return f, False
        if f.facets:
            f = self._finer(out, f)
        if f.depth > limit + f.error:
            return f, True
        if f.depth == 0 and not f.contact and f.apart:
            return f, False
        if 0 < f.depth <= limit - f.error:
            return f, False
        try:
            volume = self._shared_volume(out, f)
        except BuildFailed:
            return f, None
        if volume <= LEAST_VOLUME:
            return f, False
        return f, True if f.depth > limit else None

    def _shared_volume(self, out: Evaluation, f: Finding) -> float:
        """The space that the true bodies share at a finding's moment, m3."""
        a, b = self._two(out, f)
        name = hashed(a.form.key, b.form.key, f.pose[:3], poses.matrix(f.pose[3:]))
        steps = self._posed_steps(out, f)
        return self._volumes.get(name, lambda: float(self.workshop.call("common_volume", *itertools.chain(*steps))))

    def _finer(self, out: Evaluation, f: Finding) -> Finding:
        """The same pair with fine triangles; the finding as it was where they cannot be made."""
        a, b, task = self._task(out, f)
        finer = [self._fine_form(out, s) for s in (a, b)]
        task = replace(task, a=finer[0], b=finer[1])
        assert out.sweep is not None
        return out.sweep.told(a, b, task, self._findings.get(task.key(), task.finding))

    def _fine_form(self, out: Evaluation, s: Shape) -> Form:
        """The body with fine triangles; as it is where they cannot be made."""
        placed = out.document.placed[s.placed]
        recipe, _ = self._recipe(out.document, placed.part, placed.mirrored)
        try:
            solid = self.workshop.build(recipe | {"deviation": FINE})
        except BuildFailed:
            return s.form
        return self._form(f"{out.solid_keys[s.placed]} fine", solid.bodies[s.form.body.name])

    def _task(self, out: Evaluation, f: Finding) -> tuple[Shape, Shape, Task]:
        assert out.sweep is not None
        a, b = self._two(out, f)
        limits = [
            out.document.scope().value(r.at_least, "length")
            for r in out.document.requirements.values()
            if isinstance(r, Clearance)
        ]
        return a, b, out.sweep.task(a, b, 0.0, _meshes(out).get((a.name, b.name)), tuple(sorted(limits)))

    def _clearance(self, out: Evaluation, i: str, asked: Clearance, limit: float) -> Verdict:
        shown = out.document.units.length
        bodies = {x: out.solids[x.placed].bodies for x in (asked.a, asked.b)}
        for x in (asked.a, asked.b):
            if x.body is not None and x.body not in bodies[x]:
                why = f"No answer: {out.document.placed[x.placed].name} has no body {x.body!r} now"
                return Verdict(i, asked.name, asked.kind, None, why)
        between = [
            f
            for f in out.findings
            if (_of(f.a, asked.a) and _of(f.b, asked.b)) or (_of(f.a, asked.b) and _of(f.b, asked.a))
        ]
        if not between:
            left_out = [
                out.document.placed[x.placed].name for x in (asked.a, asked.b) if out.document.placed[x.placed].left_out
            ]
            why = f"{left_out[0]} is left out" if left_out else "a clearance needs two different parts"
            return Verdict(i, asked.name, asked.kind, None, f"No answer: {why}")
        between = [self._settled(out, f, limit) for f in between]
        f = min(between, key=lambda f: f.distance - f.depth)
        value = f.distance - f.depth
        holds: bool | None = value >= limit - min(f.error, EXACT)
        unsure = [g for g in between if g.distance - g.depth - g.error < limit - EXACT or (g.contact and not g.decided)]
        if holds and unsure:
            g = min(unsure, key=lambda g: g.distance - g.error)
            near = f"No answer: {_named(out, g.a)} to {_named(out, g.b)} is {display(g.distance, 'length', shown, 4)} ± {display(g.error, 'length', shown, 4)}, too near the limit of {display(limit, 'length', shown)}"
            near += f" ({g.basis.rpartition('; ')[2]})" if "gave no answer" in g.basis else ""
            return Verdict(
                i,
                asked.name,
                asked.kind,
                None,
                near,
                None,
                limit,
                ">=",
                "length",
                g.error,
                g.time,
                (g.a, g.b),
                basis=g.basis,
            )
        words = f"{_named(out, f.a)} to {_named(out, f.b)}: {display(value, 'length', shown)} at {f.time:.4f} s, at least {display(limit, 'length', shown)}"
        if f.depth:
            words = f"{_named(out, f.a)} and {_named(out, f.b)} overlap by {display(f.depth, 'length', shown, 3)} at {f.time:.4f} s"
        return Verdict(
            i, asked.name, asked.kind, holds, words, value, limit, ">=", "length", f.error, f.time, (f.a, f.b),
            tuple(map(_tuple, f.points)), f.basis, drawn=True,
        )  # fmt: skip

    def _settled(self, out: Evaluation, f: Finding, limit: float) -> Finding:
        """The finding, better known where a limit lies within its error: by fine triangles, then by the exact faces."""
        if f.depth or abs(f.distance - limit) >= f.error or not f.facets:
            return f
        finer = self._finer(out, f)
        if finer.depth or abs(finer.distance - limit) >= finer.error or not finer.facets:
            return finer
        try:
            (steps_a, pose_a), (steps_b, pose_b) = self._posed_steps(out, finer)
            faces = self._nearest_faces(out, finer)
            exact = float(self.workshop.call("distance", steps_a, [faces[0]], pose_a, steps_b, [faces[1]], pose_b)[0])
        except BuildFailed as failed:
            return replace(
                finer,
                basis=f"{finer.basis}; the exact faces gave no answer: {failed}".replace("; stopped", ", stopped"),
            )
        if exact > finer.distance + finer.error:
            return finer
        # the search was ended within a grain; what the triangles hid is known now, but only at this moment
        error = max(finer.error - finer.facets, 0.0) + EXACT / 2
        return replace(
            finer,
            distance=exact,
            error=error,
            basis=f"{finer.basis}; exact between the two nearest faces at the worst moment",
        )

    def _nearest_faces(self, out: Evaluation, f: Finding) -> tuple[int, int]:
        """The B-rep faces of both bodies that are nearest at a finding's pose."""
        a, b = self._two(out, f)
        pair = Pair(a.form, b.form)
        _, result = pair.distance(f.pose)
        return int(pair.a.body.face_of[result.b1]), int(pair.b.body.face_of[result.b2])

    def _two(self, out: Evaluation, f: Finding) -> tuple[Shape, Shape]:
        shapes = {s.name: s for s in self.shapes(out)}
        return shapes[f.a], shapes[f.b]

    def _posed_steps(self, out: Evaluation, f: Finding) -> list[tuple[Any, Array]]:
        """Build steps and pose of both bodies of a finding, at its moment, in the frame of the first."""
        both = []
        for s, at in zip(self._two(out, f), (poses.IDENTITY, f.pose), strict=True):
            placed = out.document.placed[s.placed]
            made, _ = self._recipe(out.document, placed.part, placed.mirrored)
            both.append((next(b["steps"] for b in made["bodies"] if b["name"] == s.form.body.name), at))
        return both

    def curve(self, out: Evaluation, requirement: str) -> Array:
        """(n, 2) time and distance over the cycle of the pair that decided a requirement, for drawing; (0, 2) where none did.

        Of the triangles, at so many moments as take no longer than DRAWING, at most CURVE.
        """
        sweep, v = out.sweep, out.verdicts[requirement]
        if sweep is None or not v.drawn or not sweep.motion.moving or v.time is None:
            return np.zeros((0, 2))
        shapes = {s.name: s for s in self.shapes(out)}
        a, b = (shapes[p] for p in v.parts)
        worst = v.time
        every = np.union1d(np.linspace(0, sweep.motion.duration, CURVE), [worst])
        at = sweep.poses(a, b, every)
        name = hashed(a.form.key, b.form.key, at[:, :3], poses.matrix(at[:, 3:]))

        def measured() -> Array:
            pair, found, begun = Pair(a.form, b.form), [], clock.perf_counter()
            first = [int(np.searchsorted(every, worst)), 0, len(every) - 1]
            order = [*first, *(k for start in (0, 4, 2, 6, 1, 5, 3, 7) for k in range(start, len(every), 8))]
            for n, k in enumerate(order):
                if n > CURVE // 8 and clock.perf_counter() - begun > DRAWING:
                    break
                found.append((every[k], pair.distance(at[k])[0]))
            return np.unique(np.array(found), axis=0)

        return self._curves.get(name, measured)


def _too_long(out: Evaluation, duration: float, error: TooLong) -> str:
    reached = display(error.reached * 0.9, "time", "s")
    return (
        f"The cycle of {display(duration, 'time', 's')} has more turns than can be followed, and the motion does not repeat within the "
        f"{display(error.reached, 'time', 's')} that were: ask for at most {reached}"
    )


def _up_to_there(out: Evaluation, v: Verdict) -> Verdict:
    """A verdict on a motion that came to a dead point: what fails up to there fails; what holds is no answer yet."""
    assert out.motion is not None
    reached = f"up to {out.motion.duration:.4g} s"
    if v.holds is False:
        return replace(v, basis=f"{v.basis}; {reached}, where the drive comes to a dead point")
    told = v.words.removeprefix("No answer: ")
    return replace(
        v, holds=None, words=f"No answer for the whole cycle; {reached}, where the drive comes to a dead point: {told}"
    )


def _mass(out: Evaluation, i: str, asked: MassLimit, limit: float) -> Verdict:
    unit = out.document.units.mass
    found = out.masses[asked.of].mass
    word = {WHOLE: "the whole", MOVING: "what moves"}.get(asked.of) or out.document.groups[asked.of].name
    words = f"{word}: {display(found, 'mass', unit)}, at most {display(limit, 'mass', unit)}"
    return Verdict(
        i, asked.name, asked.kind, found <= limit, words, found, limit, "<=", "mass", error=found * 1e-9,
        basis="volume of the B-rep solids times density",
    )  # fmt: skip


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


def _meshes(out: Evaluation) -> dict[tuple[str, str], Meshing]:
    """Every gear or rack pair by the names of both bodies, with how one turns for the other."""
    document, m, found = out.document, out.mechanism, {}
    assert m is not None
    scope = document.scope()
    for pair in document.pairs.values():
        if pair.kind not in ("gear", "rack") or pair.a not in m.link_of or pair.b not in m.link_of:
            continue
        a, b = (numbers(document.parts[document.placed[p].part].element, scope) for p in (pair.a, pair.b))
        if out.pose is None or {a.kind, b.kind} - {"spur_gear", "ring_gear", "rack"}:
            continue
        first, second = (m.part_pose(p, out.pose) for p in (pair.a, pair.b))
        z = [poses.rotate(x[3:], np.array([0.0, 0, 1])) for x in (first, second)]
        same = float(np.sign(z[0] @ z[1]))
        pitch = 2 * np.pi / a.teeth
        if pair.kind == "rack":
            found[f"{pair.a}/gear", f"{pair.b}/rack"] = Meshing(pitch, travel=same * a.module * a.teeth / 2)
        else:
            inner = 1.0 if "ring_gear" in (a.kind, b.kind) else -1.0
            found[f"{pair.a}/gear", f"{pair.b}/gear"] = Meshing(pitch, ratio=inner * same * a.teeth / b.teeth)
    return found


def _beyond_limits(out: Evaluation) -> list[Problem]:
    """Joints that the cycle would take beyond their limits."""
    m, found = out.mechanism, []
    assert m is not None
    for c in out.coordinates.values():
        held = m.held[c.joint]
        for name, least, most in held.limits:
            if name != c.name:
                continue
            values = np.concatenate([c.whole.value, reversals(c.whole)[1]])
            over = np.maximum(values - most, least - values)
            at = int(np.argmax(over))
            if over[at] > 1e-7:
                dimension = "angle" if c.turning else "length"
                unit = "deg" if c.turning else out.document.units.length
                limit = most if values[at] > most else least
                reached, told = (display(float(v), dimension, unit) for v in (values[at], limit))
                words = f"{held.name} would go to {reached}, beyond its limit of {told}, from {_first_beyond(c.whole, least, most):.3f} s on"
                if np.ptp(values) < 1e-9:
                    words = f"{held.name} stands at {reached}, beyond its limit of {told}"
                found.append(Problem(held.path, words))
    return found


def _first_beyond(v: Values, least: float, most: float) -> float:
    """The first moment at which a coordinate leaves its limits, s."""
    fine = np.unique(np.concatenate([v.times, reversals(v)[0]]))
    over = np.maximum(interpolated(v, fine) - most, least - interpolated(v, fine))
    at = int(np.argmax(over > 1e-7))
    low, high = float(fine[max(0, at - 1)]), float(fine[at])
    for _ in range(50 if at else 0):
        middle = (low + high) / 2
        x = float(interpolated(v, np.array([middle]))[0])
        low, high = (low, middle) if max(x - most, least - x) > 0 else (middle, high)
    return high


def _coordinate(out: Evaluation, joint: str, turning: bool | None = None) -> Coordinate | None:
    """The coordinate of a joint that a requirement speaks of."""
    own = [c for c in out.coordinates.values() if c.joint == joint and turning in (None, c.turning)]
    return max(own, key=lambda c: float(np.ptp(c.value)), default=None)


def _travel(out: Evaluation, i: str, asked: Travel) -> Verdict:
    turning = bool(asked.turn)
    dimension, unit = ("angle", "deg") if turning else ("length", out.document.units.length)
    limit = out.document.scope().value(asked.turn if turning else asked.slide, dimension)
    c = _coordinate(out, asked.joint, turning)
    if c is None:
        return Verdict(
            i, asked.name, asked.kind, None, f"No answer: nothing {'turns' if turning else 'slides'} in this joint"
        )
    found = travel(c)
    words = f"{display(found.value, dimension, unit)} over the cycle, at least {display(limit, dimension, unit)} asked"
    return Verdict(
        i, asked.name, asked.kind, found.value >= limit - 1e-9, words, found.value, limit, ">=", dimension, found.error, found.time,
        basis="joint coordinate over the cycle; its turning points between stations too",
    )  # fmt: skip


def _time_ratio(out: Evaluation, i: str, asked: TimeRatio) -> Verdict:
    limit = out.document.scope().value(asked.at_least, "number")
    c = _coordinate(out, asked.joint)
    found = time_ratio(c) if c is not None else None
    if found is None:
        return Verdict(i, asked.name, asked.kind, None, "No answer: this joint does not go forth and back in the cycle")
    words = f"the slow stroke takes {found.value:.3f} times as long as the fast one, at least {limit:g} asked"
    return Verdict(
        i, asked.name, asked.kind, found.value >= limit - 1e-9, words, found.value, limit, ">=", "number", found.error, found.time,
        basis="moments where the joint's velocity is zero, between stations too",
    )  # fmt: skip


def _is(shape: Shape, of: Of) -> bool:
    return shape.placed == of.placed and of.body in (None, shape.form.body.name)


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
