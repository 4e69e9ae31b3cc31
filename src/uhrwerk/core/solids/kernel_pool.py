"""Worker processes in which the B-rep kernel runs, with a time limit: the kernel may crash or hang, we may not."""

from __future__ import annotations

import queue
import weakref
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from uhrwerk.core.cache import Cache
from uhrwerk.core.solids.blob_store import BlobStore
from uhrwerk.core.solids.disk_cache import DiskCache
from uhrwerk.core.solids.recipe import Recipe, key
from uhrwerk.core.solids.solid import Solid
from uhrwerk.core.worker import Worker

#: goes into the key of every kept solid; raise it when the kernel layer gives other results for the same recipe
KERNEL_VERSION = 15


#: triangles of all solids kept in memory: some hundred bytes each
MOST_TRIANGLES = 800_000


def triangles(solid: Solid) -> int:
    return sum(len(b.triangles) for b in solid.bodies.values())


class BuildFailed(RuntimeError):
    """A build that the kernel refused, crashed on or did not finish in time; `step` is the build step that it was at then."""

    def __init__(self, words: str, step: str = "") -> None:
        super().__init__(words)
        self.step = step


def _work(connection: Connection) -> None:
    """A worker's loop; the first that it is told is where contents of files are read from."""
    jobs: dict[str, Callable[..., Any]] | None = None
    folder: Path | None = None
    while True:
        try:
            if folder is None:
                folder = connection.recv()
            job, arguments = connection.recv()
        except (EOFError, KeyboardInterrupt):
            return
        try:
            if jobs is None:
                from uhrwerk.core.solids.kernel import Kernel  # the kernel itself, which workers alone may import
                from uhrwerk.core.solids.kernel_jobs import jobs as jobs_of

                jobs = jobs_of(Kernel(folder, lambda step: connection.send((None, step))))
            answer = (True, jobs[job](*arguments))
        except Exception as error:  # crosses the process border as words
            answer = (False, (str(error), getattr(error, "step", "")))
        connection.send(answer)


def _imported(data: Any) -> Iterator[str]:
    """The contents of files that recipes ask for, those of their neighbours too."""
    if isinstance(data, dict):
        if data.get("do") == "imported":
            yield data["contents"]
        for inner in data.values():
            yield from _imported(inner)
    elif isinstance(data, list | tuple) and data and isinstance(data[0], dict | list):  # not the points of an outline
        for inner in data:
            yield from _imported(inner)


class KernelPool:
    """Hands jobs to workers; keeps solids by content hash in memory and, if given, in a folder."""

    def __init__(self, folder: Path | None = None, workers: int = 2, limit: float = 30.0) -> None:
        self.folder, self.limit, self.count = DiskCache(folder), limit, workers
        self.contents = BlobStore(None if folder is None else folder / "received")
        self._idle: queue.LifoQueue[Worker | None] = queue.LifoQueue()
        for _ in range(workers):
            self._idle.put(None)  # started when first needed
        self._solids: Cache[Solid] = Cache(MOST_TRIANGLES, triangles)
        self.built, self.steps = 0, 0
        weakref.finalize(self, _stopped, self._idle)  # at the latest when this process ends

    def call(self, job: str, *arguments: Any, limit: float | None = None) -> Any:
        """The answer of a kernel job; BuildFailed where there is none. NoWorker where none can be started."""
        for name in _imported(arguments):
            self.contents.ready(name)  # where it is not, the kernel says so
        worker, keep = self._idle.get(), None
        step, limit = "", self.limit if limit is None else limit
        try:
            if worker is not None and worker.pipe.poll():  # it ended while it was idle: that is none of the job's doing
                worker.stop()
                worker = None
            worker = worker or self._hired()
            worker.pipe.send((job, arguments))
            good = None
            while good is None:  # the kernel tells each build step that it begins
                if not worker.pipe.poll(limit):
                    raise BuildFailed(f"not finished after {limit:.0f} s; stopped", step)
                good, answer = worker.pipe.recv()
                if good is None:
                    step, self.steps = answer, self.steps + 1
            keep = worker
        except (EOFError, ConnectionError) as error:
            raise BuildFailed("the geometry kernel crashed on these dimensions; it was started again", step) from error
        finally:
            if keep is None and worker is not None:
                worker.stop()
            self._idle.put(keep)
        if not good:
            raise BuildFailed(*answer)
        return answer

    def _hired(self) -> Worker:
        worker = Worker(_work)
        worker.pipe.send(self.contents.folder)
        return worker

    def build(self, recipe: Recipe) -> Solid:
        """The solid of a recipe: kept, or built in a worker."""
        name = key([KERNEL_VERSION, recipe])
        if (solid := self._solids.peek(name)) is not None:
            return solid
        solid = self.folder.load(name)
        if solid is None:
            try:
                solid = self.call("build", recipe)
                self.folder.save(name, solid)
            except BuildFailed as error:
                solid = self._before(recipe, error)
            self.built += 1
        return self._solids.put(name, solid)

    def _before(self, recipe: Recipe, error: BuildFailed) -> Solid:
        """The part as it was before the build step on which the kernel crashed or did not finish."""
        (body, *more) = recipe["bodies"]
        at = next((k for k, s in enumerate(body["steps"]) if s.get("id") == error.step), 0) if error.step else 0
        if more or not at:
            raise error
        before = recipe | {"bodies": [body | {"steps": body["steps"][:at]}]}
        return replace(self.build(before), failed=(error.step, str(error)))

    def build_all(
        self, recipes: Iterable[Recipe], report: Callable[[], None] = lambda: None
    ) -> list[Solid | BuildFailed]:
        """Solids of several recipes, side by side; a failure stands in its place. `report` is called for each that is there."""

        def one(recipe: Recipe) -> Solid | BuildFailed:
            try:
                return self.build(recipe)
            except BuildFailed as error:
                return error
            finally:
                report()

        with ThreadPoolExecutor(self.count) as pool:
            return list(pool.map(one, recipes))

    def close(self) -> None:
        """Ends the idle workers. Whoever asks for a solid afterwards starts one anew."""
        for _ in range(_stopped(self._idle)):
            self._idle.put(None)


def _stopped(idle: queue.LifoQueue[Worker | None]) -> int:
    """How many places for workers were idle; those workers are ended."""
    places = 0
    while True:
        try:
            worker = idle.get_nowait()
        except queue.Empty:
            return places
        places += 1
        if worker is not None:
            worker.stop()
