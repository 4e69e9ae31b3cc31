"""Worker processes in which pairs of bodies are swept side by side, one for each core.

Every evaluation that asks has a queue of its own, and the workers take from the queues in turn: two designers share the
machine fairly, and what is no longer wanted is dropped with its queue. A worker is told of a body once and keeps it. Where
a worker dies, the task is done in its place by the thread that waits for it.
"""

from __future__ import annotations

import atexit
import threading
from collections import OrderedDict, deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, fields
from multiprocessing.connection import Connection

from uhrwerk.core.proximity.body_geometry import BodyGeometry
from uhrwerk.core.proximity.sweep import PairResult, SweepTask
from uhrwerk.core.worker import Worker

#: triangles of bodies that one worker keeps
MOST_TRIANGLES = 120_000
#: tasks handed to a worker in one go at most, so that it need not wait for the next; few, so that all end together
AT_ONCE, SHARE = 6, 16
#: seconds between two looks whether an answer is still wanted
LOOK = 0.05


def _work(pipe: Connection) -> None:
    forms: dict[str, BodyGeometry] = {}
    while True:
        try:
            message, *more = pipe.recv()
        except (EOFError, KeyboardInterrupt):
            return
        if message == "form":
            forms[more[0]] = BodyGeometry(more[1], more[0])
        elif message == "drop":
            forms.pop(more[0], None)
        else:
            pipe.send([_outcome(SweepTask(forms[a], forms[b], *rest)) for a, b, rest in more[0]])


def _outcome(task: SweepTask) -> PairResult | str:
    try:
        return task.finding()
    except Exception as error:  # crosses the process border as words
        return repr(error)


class _Sweeper(Worker):
    """A worker that knows some bodies."""

    def __init__(self) -> None:
        super().__init__(_work)
        self.known: OrderedDict[str, int] = OrderedDict()

    def findings(self, tasks: list[SweepTask]) -> list[PairResult | str]:
        """The answers of the worker, words where it failed; ConnectionError or EOFError where it died."""
        forms = {form.key: form for task in tasks for form in (task.a, task.b)}
        for key, form in forms.items():
            if key not in self.known:
                self.pipe.send(("form", key, form.body))
                self.known[key] = len(form.body.triangles)
            self.known.move_to_end(key)
        while sum(self.known.values()) > MOST_TRIANGLES and len(self.known) > len(forms):
            self.pipe.send(("drop", self.known.popitem(last=False)[0]))
        rests = ((t, tuple(getattr(t, f.name) for f in fields(SweepTask)[2:])) for t in tasks)  # all but both forms
        self.pipe.send(("tasks", [(t.a.key, t.b.key, rest) for t, rest in rests]))
        answers: list[PairResult | str] = self.pipe.recv()
        return answers


@dataclass(eq=False)
class _Queue:
    """What one evaluation still waits for: tasks by their place, and answers."""

    waiting: deque[tuple[int, SweepTask]]
    answers: dict[int, PairResult | Exception] = field(default_factory=dict)

    def next_tasks(self) -> list[tuple[int, SweepTask]]:
        """The next tasks for a worker: several where their bodies are small."""
        many = max(1, min(AT_ONCE, len(self.waiting) // SHARE))
        some, heavy = [self.waiting.popleft()], 0
        while len(some) < many:
            heavy += sum(len(f.body.triangles) for f in (some[-1][1].a, some[-1][1].b))
            if heavy > MOST_TRIANGLES // 8:
                break
            some.append(self.waiting.popleft())
        return some


def _here(task: SweepTask) -> PairResult | Exception:
    """The answer without a worker; what goes wrong is raised where it is waited for, and the thread goes on."""
    try:
        return task.finding()
    except Exception as error:
        return error


class SweepPool:
    """So many workers, started when first needed."""

    def __init__(self, workers: int) -> None:
        self.count = workers
        self._queues: deque[_Queue] = deque()
        self._change = threading.Condition()
        self._threads: list[threading.Thread] = []
        self._workers: list[_Sweeper] = []
        self._closed = False
        atexit.register(self.close)

    def findings(
        self, tasks: Sequence[SweepTask], report: Callable[[int], None], meanwhile: Callable[[], None] = lambda: None
    ) -> list[PairResult]:
        """The findings of tasks, in their order. `meanwhile` is done here once the workers have begun; then `report` is called again and
        again how many are there. What they raise ends the wait, and the tasks not yet begun are dropped."""
        queue = _Queue(deque(enumerate(tasks)))
        with self._change:
            self._start()
            self._queues.append(queue)
            self._change.notify_all()
        try:
            meanwhile()
            with self._change:
                while len(queue.answers) < len(tasks):
                    self._change.wait(LOOK)
                    report(len(queue.answers))
        finally:
            with self._change:
                queue.waiting.clear()
        results = []
        for k in range(len(tasks)):
            answer = queue.answers[k]
            if isinstance(answer, Exception):
                raise answer
            results.append(answer)
        return results

    def _start(self) -> None:
        while len(self._threads) < self.count and not self._closed:
            thread = threading.Thread(target=self._serve, daemon=True, name=f"sweep {len(self._threads) + 1}")
            self._threads.append(thread)
            thread.start()

    def _next(self) -> tuple[_Queue, list[tuple[int, SweepTask]]] | None:
        """The next tasks, from each queue in turn."""
        with self._change:
            while not self._closed:
                while self._queues:
                    queue = self._queues.popleft()
                    if queue.waiting:
                        some = queue.next_tasks()
                        self._queues.append(queue)
                        return queue, some
                self._change.wait()
        return None

    def _serve(self) -> None:
        worker: _Sweeper | None = None
        while (job := self._next()) is not None:
            queue, some = job
            outcomes: list[PairResult | str]
            try:
                if worker is None:
                    worker = _Sweeper()
                    self._workers.append(worker)
                outcomes = worker.findings([task for _, task in some])
            except Exception:  # a worker that died
                if worker is not None:
                    self._workers.remove(worker)
                    worker.stop()
                    worker = None
                outcomes = ["died"] * len(some)
            # what failed there is done here, and fails here if it must
            answers = {
                at: _here(task) if isinstance(f, str) else f for (at, task), f in zip(some, outcomes, strict=True)
            }
            with self._change:
                queue.answers.update(answers)
                self._change.notify_all()

    def close(self) -> None:
        with self._change:
            self._closed = True
            self._change.notify_all()
        for worker in self._workers:
            worker.stop()
        self._workers.clear()
