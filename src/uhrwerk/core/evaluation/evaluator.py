"""Document in, verdicts out, recomputing only what a change touches.

Each stage keeps its results by a hash of exactly what it reads: solids by recipe, the motion by the numbers of its
equations, what was found for a pair by both shapes and their own course. `Evaluator` holds these; threads may share it.
"""

from __future__ import annotations

import hashlib
import itertools
import time as clock
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor, wait
from contextlib import contextmanager
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly import (
    Mechanism,
    NotSolvable,
    Problem,
    compile,
    contradiction_words,
    mobility,
    mounting,
    solve,
    without_pairs,
)
from uhrwerk.core.assembly.mass_properties import lumps_of, mass_of
from uhrwerk.core.cache import Cache, released
from uhrwerk.core.context import Context
from uhrwerk.core.document import Document
from uhrwerk.core.document.document import MOVING, WHOLE
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import ValidationFailed, numbers
from uhrwerk.core.motion import Motion, TooLong, beyond_limits, coordinates, cycle, dead_point_words, near
from uhrwerk.core.part import part_datums
from uhrwerk.core.part.design import whole
from uhrwerk.core.proximity.bodies import Bodies
from uhrwerk.core.proximity.body_geometry import BodyGeometry, PlacedBody
from uhrwerk.core.proximity.broad_phase import may_meet
from uhrwerk.core.proximity.cam_contact import touches
from uhrwerk.core.proximity.gear_meshing import meshes
from uhrwerk.core.proximity.refinement import PairCaches, Refinement
from uhrwerk.core.proximity.sweep import FLANKS, Meshing, PairResult, Sweep, SweepTask
from uhrwerk.core.proximity.sweep_pool import SweepPool
from uhrwerk.core.solids import BuildFailed, KernelPool, Recipe, Solid
from uhrwerk.core.stages.evaluation import Built, Compiled, Evaluation, Moved, Stopped, Swept
from uhrwerk.core.stages.requirement import Requirement
from uhrwerk.core.stages.verdict import Verdict

Progress = Callable[[str, float], None]
T = TypeVar("T")
#: seconds after which it is heard again how many solids are there
WAIT = 0.2

#: numbers in all motions kept
MOST_NUMBERS = 10_000_000
#: what is said of all pairs while a number is turned
LOOKED_AT_LATER = "Undecided: all pairs are checked when the change is applied"
#: evaluations after which memory that nothing uses is given back
RELEASE = 20


#: two bodies, how they mesh where they do, and the distances that decide verdicts
_Job = tuple[PlacedBody, PlacedBody, Meshing | None, tuple[float, ...]]
#: designs with the key of each and its solid, or why there is none; and refusals
_Designs = tuple[dict[tuple[str, bool], tuple[str, Solid | BuildFailed]], list[Problem]]


class Cancelled(Exception):
    """The answer is no longer wanted."""


def _hash(*arrays: Any) -> str:
    digest = hashlib.sha256()
    for a in arrays:
        digest.update(a.tobytes() if isinstance(a, np.ndarray) else repr(a).encode())
    return digest.hexdigest()[:32]


class Evaluator:
    """`folder` keeps solids between runs; `limit` is how many seconds one solid may take; `workers` is in how many
    processes pairs are swept, or 0 for none but this one."""

    def __init__(self, folder: Path | None = None, limit: float = 30.0, workers: int = 0) -> None:
        self.kernel_pool = KernelPool(folder, limit=limit)
        self.context = Context(self.kernel_pool)
        self.sweep_pool = SweepPool(workers) if workers else None
        self.bodies = Bodies(self.kernel_pool)
        self.store = PairCaches(Cache(5000), Cache(500), Cache(300))
        self._assembled: Cache[Array | NotSolvable] = Cache(500)
        self._count = 0
        self._motions: Cache[Motion | TooLong] = Cache(
            MOST_NUMBERS, lambda m: m.weight if isinstance(m, Motion) else 1000
        )

    def close(self) -> None:
        """Ends all worker processes."""
        self.kernel_pool.close()
        if self.sweep_pool is not None:
            self.sweep_pool.close()

    def evaluate(
        self,
        document: Document,
        progress: Progress | None = None,
        cancelled: Callable[[], bool] | None = None,
        between: Sequence[str] | None = None,
    ) -> Evaluation:
        """All verdicts of a document. `progress` hears words and a fraction; Cancelled is raised once `cancelled()`. Where bodies
        are named (part/body) in `between`, what is asked of all pairs is asked of these alone, and its verdict speaks of no others.
        """

        def step(words: str, fraction: float) -> None:
            if cancelled is not None and cancelled():
                raise Cancelled
            if progress is not None:
                progress(words, fraction)

        return self._evaluated(document, step, between, None)

    def glance(self, document: Document, before: Evaluation) -> Evaluation:
        """What a number does while it is being turned, told soon: the motion is that of `before`, solved anew at its stations, so
        that another branch is not ruled out; of what is asked of all pairs only those two are looked at that failed last, and where
        these no longer fail there is no answer. Nothing of it is proved."""
        failed = [v.parts for i, v in before.verdicts.items() if v.holds is False and _of_everything(document, i)]
        e = self._evaluated(document, lambda words, fraction: None, [p for two in failed for p in two], before)
        open_ = {
            i: replace(v, holds=None, words=LOOKED_AT_LATER)
            for i, v in e.verdicts.items()
            if v.holds and _of_everything(document, i)
        }
        return replace(e, proved=False, verdicts={**e.verdicts, **open_})

    def _evaluated(
        self, document: Document, step: Progress, between: Sequence[str] | None, before: Evaluation | None
    ) -> Evaluation:
        begun = clock.perf_counter()
        compiled = _compiled(document, self.context, step)
        document = compiled.mechanism.document
        requirements = _requirements(document)
        there: list[None] = []  # one for each solid that is there
        with _beside(self._designs, compiled, lambda: there.append(None)) as designs:  # in the kernel's processes
            e = Evaluation(compiled, self._movement(compiled, step, before))
            for requirement in requirements if not e.problems else []:
                step(f"forces and curves: {requirement.name}", 0.12)
                requirement.ahead(e)
            count = len({(p.part, p.mirrored) for p in document.placed.values()})
            while not wait([designs], WAIT).done:
                step(f"solids: {len(there)} of {count}", 0.15 + 0.1 * min(1.0, len(there) / max(1, count)))
            e = replace(e, built=_built(document, designs.result()))
        complete = all(i in e.solids and e.solids[i].failed is None for i in document.placed)
        moved = e.movement
        if isinstance(moved, Moved) and complete:  # else masses and distances would be those of other parts
            e = replace(e, built=_weighed(e, moved))
            e = self._swept(e, moved, step, between)
        verdicts: dict[str, Verdict] = {}
        for k, (i, requirement) in enumerate(zip(document.requirements, requirements, strict=True)):
            far = 0.95 + 0.04 * k / len(requirements)
            report = partial(_report, step, requirement.name, far)
            report("")
            verdicts[i] = replace(judged(replace(e, report=report), requirement), requirement=i)
        self._count += 1
        if self._count % RELEASE == 0:
            released()
        step("done", 1.0)
        return replace(e, verdicts=verdicts, seconds=clock.perf_counter() - begun)

    def moved(self, document: Document, step: Progress | None = None) -> Evaluation:
        """What can be known of a document without its solids: joints, mobility, motion, coordinates."""
        step = step or (lambda words, fraction: None)
        compiled = _compiled(document, self.context, step)
        return Evaluation(compiled, self._movement(compiled, step))

    def _movement(self, compiled: Compiled, step: Progress, before: Evaluation | None = None) -> Moved | Stopped:
        m = compiled.mechanism
        document = m.document
        if not m.links:
            return Stopped()
        duration = document.scope().value(document.cycle.duration, "time")
        # where the parts stand at the start hangs on where the drives are then, not on how they go on
        start = _hash(
            *(x for r in m.rows + m.drives for x in (r.kind, r.a, r.b, r.c, *r.vectors, r.wanted_at(0.0), r.law and r.law.moves, r.sizes, r.curve, r.owner)),
            m.start, *(link.local[p] for link in m.links for p in link.parts), [link.parts for link in m.links],
            [(h.id, h.kind, h.limits) for h in m.joints.values()], m.reach,
        )  # fmt: skip
        equations = _hash(start, *(r.law for r in m.rows + m.drives))

        step("motion", 0.05)
        pose = self._assembled.get(start, lambda: _assembled(m))
        if isinstance(pose, NotSolvable):
            return _contradicted(m, pose)
        known = (
            before.mobility if before is not None and _same_joints(m, before) else None
        )  # a number seldom changes it
        free = known or mobility(document, m, pose)
        motion = self._motion(m, pose, duration, equations, step, before)
        if isinstance(motion, TooLong):
            problems = [
                *mounting(m, pose[None]),
                Problem("cycle.duration", _too_long(document, duration, motion)),
            ]
            return Stopped(tuple(problems), pose=pose, mobility=free)
        if motion.stop is not None and not motion.moving:
            why = Problem(m.drives[0].owner, dead_point_words(m, motion.stop))
            return Stopped((*mounting(m, pose[None]), why), pose=pose, mobility=free)
        along = coordinates(m, motion)
        problems = list(mounting(m, motion.track.pose))
        dead_point = None
        if motion.stop is not None:
            dead_point = Problem(m.drives[0].owner, dead_point_words(m, motion.stop))
            problems.append(dead_point)
        problems += beyond_limits(m, along)
        return Moved(pose, free, motion, along, Sweep(motion, touches(m, motion)), tuple(problems), dead_point)

    def _motion(
        self, m: Mechanism, pose: Array, duration: float, equations: str, step: Progress, before: Evaluation | None
    ) -> Motion | TooLong:
        """The motion from a pose: as it is kept, or near the one `before`, or followed anew."""
        frames = numbers(m.document.cycle, m.document.scope()).frames

        def followed() -> Motion | TooLong:
            try:
                return cycle(m, pose, duration, frames, lambda: step("motion", 0.05))
            except TooLong as error:
                return error

        key = _hash(equations, duration, frames)
        motion = self._motions.peek(key)
        if motion is None and before is not None and before.motion is not None:
            motion = near(m, pose, before.motion, duration, frames)
        return motion if motion is not None else self._motions.get(key, followed)

    def _designs(self, compiled: Compiled, report: Callable[[], None]) -> _Designs:
        """Every design that is used and sound, made or refused in words."""
        document = compiled.mechanism.document
        bad = {p.path.split(".")[1] for p in compiled.mechanism.problems if p.path.startswith("parts.")}
        used = {(p.part, p.mirrored) for p in document.placed.values() if p.part not in bad}
        recipes, refusals = {}, []
        for part, image in sorted(used):
            try:
                recipes[part, image] = self._recipe(document, part, image)
            except ValidationFailed as error:
                path, why = error.faults[0]
                refusals.append(Problem(path, f"{document.parts[part].name}: {why}"))
        solids = self.kernel_pool.build_all([r for r, _ in recipes.values()], report)
        return {w: (name, solid) for (w, (_, name)), solid in zip(recipes.items(), solids, strict=True)}, refusals

    def _recipe(self, document: Document, part: str, image: bool) -> tuple[Recipe, str]:
        """How a part's solid is made, and the key of that."""
        return part_datums.recipe(document, part, image)

    def solid_of(self, document: Document, placed: str, deviation: float | None = None) -> tuple[str, Solid]:
        """The key and the solid of a placed part of a document that need not be evaluated; its triangles as coarse as is asked,
        m. ValidationFailed where it cannot be made."""
        p = document.placed[placed]
        recipe, name = self._recipe(document, p.part, p.mirrored)
        if deviation is not None:
            recipe, name = recipe | {"deviation": deviation}, f"{name}.{deviation:g}"
        try:
            return name, self.kernel_pool.build(recipe)
        except BuildFailed as error:
            raise ValidationFailed((f"parts.{p.part}", f"{document.parts[p.part].name}: {error}")) from error

    def shapes(self, e: Evaluation) -> list[PlacedBody]:
        """Every body of every placed part that is not left out."""
        m = e.mechanism
        placed_bodies = []
        for p, solid in e.solids.items():
            if not e.document.placed[p].left_out:
                link = m.link_of[p]
                local = np.asarray(m.links[link].local[p])
                bodies = solid.bodies.values()
                placed_bodies += [
                    PlacedBody(p, self.bodies.form(e.solid_keys[p], body), link, local) for body in bodies
                ]
        return placed_bodies

    def _refinement(self, e: Evaluation, moved: Moved, shapes: list[PlacedBody], limits: set[float]) -> Refinement:
        document = e.document
        recipes = {p: self._recipe(document, document.placed[p].part, document.placed[p].mirrored)[0] for p in e.solids}

        def fine_form(s: PlacedBody) -> BodyGeometry:
            return self.bodies.fine(s, e.solid_keys[s.placed], recipes[s.placed])

        mesh = meshes(e.mechanism, moved.pose)
        return Refinement(
            shapes, moved.sweep, mesh, tuple(sorted(limits)), recipes, fine_form, self.kernel_pool, self.store
        )

    def _swept(self, e: Evaluation, moved: Moved, step: Progress, between: Sequence[str] | None) -> Evaluation:
        """An evaluation with what its pairs of bodies do."""
        requirements, shapes, sweep = _requirements(e.document), self.shapes(e), moved.sweep
        limits: dict[tuple[int, int], set[float]] = {}
        for r in requirements:
            for i, j, limit in r.pairs(shapes, e.document):
                limits.setdefault((i, j), set()).add(limit)
        refinement = self._refinement(e, moved, shapes, set().union(*limits.values()))
        e = replace(e, pairs=refinement)
        jobs, known_apart = set(limits), 0
        if between is not None and any(r.everything for r in requirements):
            jobs |= set(itertools.combinations([k for k, s in enumerate(shapes) if s.name in between], 2))
        elif any(r.everything for r in requirements):
            step("boxes", 0.28)
            margin = 2 * max((s.form.body.deviation for s in shapes), default=0.0) + 1e-5
            jobs |= set(may_meet(shapes, sweep.track, margin))
            parts = np.unique([s.placed for s in shapes], return_counts=True)[1]
            known_apart = int(len(shapes) * (len(shapes) - 1) // 2 - (parts * (parts - 1) // 2).sum()) - len(jobs)
        pairs = []
        for i, j in sorted(jobs):
            a, b = shapes[i], shapes[j]
            if (b.name, a.name) in refinement.meshes:
                a, b = b, a
            pairs.append((a, b, refinement.meshes.get((a.name, b.name)), tuple(sorted(limits.get((i, j), ())))))

        def meanwhile() -> None:
            for r in requirements if not e.problems else []:
                step(f"forces: {r.name}", 0.3)
                r.meanwhile(e)

        def swept(some: list[_Job], fine: bool) -> list[PairResult]:
            tasks = []
            for a, b, meshing, own in some:
                one, other = (replace(x, form=refinement.fine_form(x)) if fine else x for x in (a, b))
                precision = None if not own and not fine else 0.0 if meshing is None else FLANKS
                tasks.append((one, other, sweep.task(one, other, precision, meshing, own)))
            results = self._results([task for _, _, task in tasks], step, (lambda: None) if fine else meanwhile)
            return [sweep.placed_result(x, y, task, f) for (x, y, task), f in zip(tasks, results, strict=True)]

        # flanks whose gap is required are nearer to one another than the usual triangles can tell; of others these often
        # tell that they do not touch
        close = [bool(meshing is not None and own) for _, _, meshing, own in pairs]
        first = iter(swept([p for p, c in zip(pairs, close, strict=True) if not c], fine=False))
        findings = [None if c else next(first) for c in close]
        again = [k for k, (p, f) in enumerate(zip(pairs, findings, strict=True)) if p[2] and not _clear(f)]
        for k, f in zip(again, swept([pairs[k] for k in again], fine=True), strict=True):
            findings[k] = f
        return replace(e, swept=Swept(tuple(f for f in findings if f is not None), known_apart))

    def _results(self, tasks: list[SweepTask], step: Progress, meanwhile: Callable[[], None]) -> list[PairResult]:
        """Findings of all tasks: those that are kept, and the others by the workers, or here where there are none or few. `meanwhile` is
        done while workers are at it."""
        keys = [task.key() for task in tasks]
        results = {k: f for k in keys if (f := self.store.findings.peek(k)) is not None}
        missing = {k: task for k, task in zip(keys, tasks, strict=True) if k not in results}

        def heard(done: int) -> None:
            step(f"clearances: pair {done + 1} of {len(missing)}", 0.3 + 0.65 * done / max(1, len(missing)))

        if self.sweep_pool is not None and len(missing) > 1:
            fresh = self.sweep_pool.findings(list(missing.values()), heard, meanwhile)
        else:
            fresh = []
            for done, task in enumerate(missing.values()):
                heard(done)
                fresh.append(task.finding())
        for k, f in zip(missing, fresh, strict=True):
            results[k] = self.store.findings.put(k, f)
        return [results[k] for k in keys]

    def shared(self, e: Evaluation, requirement: str) -> tuple[Array, NDArray[np.int64]]:
        """What the two bodies that decided a requirement share at its worst moment: vertices (n, 3) m, triangles (m, 3)."""
        v = e.verdicts[requirement]
        if e.pairs is None or v.time is None or len(v.parts) != 2 or not all("/" in p for p in v.parts):
            return np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)
        return e.pairs.shared(v.parts, v.time)


def judged(e: Evaluation, requirement: Requirement) -> Verdict:
    """The verdict on one requirement, of an evaluation as far as it has come."""
    if requirement.needs == "joints":
        return requirement.judge(e)
    if e.motion is None or len(e.solids) < len(e.document.placed) or not e.document.placed:
        return requirement.undecided(e.problems[0].words if e.problems else "there is no part yet")
    unmade = [p for p in e.problems if p.path.startswith("parts.")]
    if unmade:  # a part that is not as it is stated: its mass too would be another's
        return requirement.undecided(unmade[0].words)
    if requirement.needs == "solids":
        return requirement.judge(e)
    beyond = [p for p in e.problems if p is not e.dead_point]
    if beyond:  # joints that wait or contradict: distances would be those of another mechanism
        return requirement.undecided(beyond[0].words)
    verdict = requirement.judge(e)
    return verdict if e.whole_cycle else _up_to_there(e, verdict)


def _of_everything(document: Document, requirement: str) -> bool:
    own = document.requirements.get(requirement)
    return isinstance(own, Requirement) and own.everything


def _clear(f: PairResult | None) -> bool:
    """Whether two bodies certainly do not touch."""
    return f is not None and f.decided and f.apart and not f.contact and f.depth == 0


def _same_joints(m: Mechanism, before: Evaluation) -> bool:
    """Whether the same links are joined in the same ways, whatever the sizes."""
    old = before.mechanism
    return [link.parts for link in m.links] == [link.parts for link in old.links] and [
        (r.kind, r.a, r.b, r.owner) for r in m.rows + m.drives
    ] == [(r.kind, r.a, r.b, r.owner) for r in old.rows + old.drives]


def _requirements(document: Document) -> list[Requirement]:
    return [r for r in document.requirements.values() if isinstance(r, Requirement)]


def _compiled(document: Document, context: Context, step: Progress) -> Compiled:
    step("joints", 0.0)
    return Compiled(document, compile(document, context), context)


def _report(step: Progress, name: str, fraction: float, words: str) -> None:
    step(f"{name}{words}", fraction)


def _contradicted(m: Mechanism, conflict: NotSolvable) -> Stopped:
    """Why joints cannot hold together; perhaps a pair is mounted so that it cannot."""
    problems = mounting(m, without_pairs(m)[None]) if any(o.startswith("pairs.") for o in conflict.joints) else []
    path = conflict.joints[0] if conflict.joints else "joints"
    return Stopped((*problems, Problem(path, contradiction_words(m, conflict))), tuple(conflict.joints))


def _built(document: Document, designs: _Designs) -> Built:
    """The solid of every placed part, and what could not be made."""
    made, refusals = designs
    problems = list(refusals)
    for (part, _), (_, solid) in made.items():
        if isinstance(solid, BuildFailed) and solid.step in document.parts[part].steps:
            problems.append(_step_failed(document, part, (solid.step, str(solid))))
        elif isinstance(solid, BuildFailed):
            problems.append(Problem(f"parts.{part}", f"{document.parts[part].name}: {solid}"))
        elif solid.failed is not None:
            problems.append(_step_failed(document, part, solid.failed))
    solids, keys = {}, {}
    for i, placed in document.placed.items():
        name, of_part = made.get((placed.part, placed.mirrored), ("", None))
        if isinstance(of_part, Solid):
            solids[i], keys[i] = of_part, name
    return Built(solids, keys, tuple(problems))


@contextmanager
def _beside(work: Callable[..., T], *arguments: Any) -> Iterator[Future[T]]:
    """Work that is done in a thread of its own; where what is within ends early, nobody waits for it."""
    thread = ThreadPoolExecutor(1)
    try:
        yield thread.submit(work, *arguments)
    finally:
        thread.shutdown(wait=False)


def _step_failed(document: Document, part: str, failed: tuple[str, str]) -> Problem:
    step, why = failed
    design = document.parts[part]
    if step not in design.steps:  # one of the part that this one is like
        return Problem(f"parts.{part}.element.part", f"{design.name}: {whole(document, part).steps[step].name}: {why}")
    after = sum(not s.off for s in list(design.steps.values())[list(design.steps).index(step) + 1 :])
    wait = f"; {after} step{'s' * (after != 1)} after it wait{'s' * (after == 1)}" if after else ""
    return Problem(f"parts.{part}.steps.{step}", f"{design.name}: {design.steps[step].name}: {why}{wait}")


def _assembled(m: Mechanism) -> Array | NotSolvable:
    try:
        return solve(m)
    except NotSolvable as error:
        return error


def _weighed(e: Evaluation, moved: Moved) -> Built:
    """The solids with their masses, as they stand at the start."""
    document, m = e.document, e.mechanism
    lumps = {i: lumps_of(document, i, e.solids[i]) for i in document.placed}
    where = e.part_poses(moved.motion.pose[0])
    groups = {WHOLE: list(document.placed), MOVING: [p for p in document.placed if m.link_of[p] != 0]}
    groups |= {i: g.placed for i, g in document.groups.items()}
    masses = {i: mass_of(parts, lumps, where) for i, parts in groups.items()}
    return replace(e.built, masses=masses, part_mass={p: sum(x.mass for x in lumps[p]) for p in document.placed})


def _too_long(document: Document, duration: float, error: TooLong) -> str:
    reached = document.display(error.reached * 0.9, "time")
    return (
        f"The cycle of {document.display(duration, 'time')} has more turns than can be followed, and the motion does not repeat within the "
        f"{document.display(error.reached, 'time')} that were: shorten it to at most {reached}"
    )


def _up_to_there(e: Evaluation, v: Verdict) -> Verdict:
    """A verdict on a motion that came to a dead point: what fails up to there fails; what holds is no answer yet."""
    reached = f"up to {e.moved.motion.duration:.4g} s"
    if v.holds is False:
        return replace(v, basis=f"{v.basis}; {reached}, where the drive comes to a dead point")
    words = v.words.removeprefix("Undecided: ")
    return replace(
        v, holds=None, words=f"Undecided for the whole cycle; {reached}, where the drive comes to a dead point: {words}"
    )


__all__ = ["Cancelled", "Evaluation", "Evaluator", "judged"]
