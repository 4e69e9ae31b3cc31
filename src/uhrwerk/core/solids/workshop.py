"""Worker processes in which the B-rep kernel runs, with a time limit: the kernel may crash or hang, we may not."""

from __future__ import annotations

import atexit
import multiprocessing
import os
import pickle
import queue
import threading
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from uhrwerk.core.solids.recipe import Recipe, key
from uhrwerk.core.solids.solid import Solid

#: goes into the key of every kept solid; raise it when the kernel layer gives other results for the same recipe
KERNEL_VERSION = 5


class BuildFailed(RuntimeError):
    """A build that the kernel refused, crashed on or did not finish in time."""


def _work(connection: Any) -> None:
    import importlib

    jobs: dict[str, Callable[..., Any]] | None = None
    while True:
        try:
            job, arguments = connection.recv()
        except (EOFError, KeyboardInterrupt):
            return
        try:
            if jobs is None:
                jobs = importlib.import_module("uhrwerk.core.solids.kernel").JOBS
            answer = (True, jobs[job](*arguments))
        except Exception as error:  # crosses the process border as words
            answer = (False, str(error))
        connection.send(answer)


class _Worker:
    def __init__(self) -> None:
        context = multiprocessing.get_context("spawn")
        self.pipe, other = context.Pipe()
        self.process = context.Process(target=_work, args=(other,), daemon=True)
        self.process.start()
        other.close()

    def stop(self) -> None:
        self.process.kill()
        self.process.join(5)
        self.pipe.close()


class Workshop:
    """Hands jobs to workers; keeps solids by content hash in memory and, if given, in a folder."""

    def __init__(self, folder: Path | None = None, workers: int = 2, limit: float = 30.0) -> None:
        self.folder, self.limit, self.count = folder, limit, workers
        self._idle: queue.LifoQueue[_Worker | None] = queue.LifoQueue()
        for _ in range(workers):
            self._idle.put(None)  # started when first needed
        self._kept: dict[str, Solid] = {}
        self._lock = threading.Lock()
        self.built = 0
        atexit.register(self.close)

    def call(self, job: str, *arguments: Any, limit: float | None = None) -> Any:
        """The answer of a kernel job; BuildFailed where there is none."""
        worker = self._idle.get() or _Worker()
        keep: _Worker | None = None
        try:
            worker.pipe.send((job, arguments))
            if not worker.pipe.poll(self.limit if limit is None else limit):
                raise BuildFailed(f"not finished after {self.limit if limit is None else limit:.0f} s; stopped")
            good, answer = worker.pipe.recv()
            keep = worker
        except (EOFError, ConnectionError) as error:
            raise BuildFailed("the geometry kernel crashed on these dimensions; it was started again") from error
        finally:
            if keep is None:
                worker.stop()
            self._idle.put(keep)
        if not good:
            raise BuildFailed(answer)
        return answer

    def build(self, recipe: Recipe) -> Solid:
        """The solid of a recipe: kept, or built in a worker."""
        name = key([KERNEL_VERSION, recipe])
        with self._lock:
            if name in self._kept:
                return self._kept[name]
        solid = self._load(name)
        if solid is None:
            solid = self.call("build", recipe)
            self.built += 1
            self._save(name, solid)
        with self._lock:
            if len(self._kept) > 2000:
                self._kept.clear()
            self._kept[name] = solid
        return solid

    def build_all(self, recipes: Iterable[Recipe]) -> list[Solid | BuildFailed]:
        """Solids of several recipes, side by side; a failure stands in its place."""

        def one(recipe: Recipe) -> Solid | BuildFailed:
            try:
                return self.build(recipe)
            except BuildFailed as error:
                return error

        with ThreadPoolExecutor(self.count) as pool:
            return list(pool.map(one, recipes))

    def _load(self, name: str) -> Solid | None:
        if self.folder is None:
            return None
        try:
            return pickle.loads(
                (self.folder / f"{name}.solid").read_bytes()
            )  # our own files, in the user's data folder
        except (OSError, pickle.UnpicklingError, EOFError, AttributeError):
            return None

    def _save(self, name: str, solid: Solid) -> None:
        if self.folder is None:
            return
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            rough = self.folder / f"{name}.{os.getpid()}.{threading.get_ident()}.part"
            rough.write_bytes(pickle.dumps(solid, protocol=5))
            rough.replace(self.folder / f"{name}.solid")
        except OSError:
            pass  # a full disk costs the kept copy, not the result

    def close(self) -> None:
        while True:
            try:
                worker = self._idle.get_nowait()
            except queue.Empty:
                return
            if worker is not None:
                worker.stop()
