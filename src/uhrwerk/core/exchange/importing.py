"""Importing a mechanism, or solids, from a file: in a process of its own, with limits of time, memory and size, since files may be broken or bad.

What comes out is a mechanism of loose parts, each where it stood, which the workspace includes like any other.
"""

from __future__ import annotations

import resource
from multiprocessing.connection import Connection
from pathlib import PurePath
from typing import Any

import numpy as np

from uhrwerk.core.assembly.start import start_fields
from uhrwerk.core.context import Context
from uhrwerk.core.document import Document, ValidationFailed, new_id, validate
from uhrwerk.core.exchange.format import Format, Opened
from uhrwerk.core.exchange.registry import FORMATS, format_of
from uhrwerk.core.solids.imported import ImportedSolids
from uhrwerk.core.upgrade import from_data
from uhrwerk.core.worker import Worker

#: bytes of a file, seconds and bytes that reading it may take, at most
LARGEST, SECONDS, MEMORY = 64_000_000, 90.0, 2_000_000_000
#: faults of one file that are told, at most
MOST_FAULTS = 50
#: units that may be stated for a format that has none, m
UNITS = {"mm": 1e-3, "cm": 1e-2, "m": 1.0, "in": 0.0254}


def imported_document(
    name: str, data: bytes, context: Context, unit: str = "", seconds: float = SECONDS, memory: int = MEMORY
) -> Document:
    """The mechanism in a file of that name; of a format of solids, its parts, all loose. `unit` is that of a format which
    states none. ValidationFailed where its format is not known, it is broken, or asks for too much."""
    format = format_of(name)
    if format is None or not format.reads:
        known = ", ".join(f.suffix for f in FORMATS.values() if f.reads)
        raise ValidationFailed(("file", f"{name!r} cannot be imported; formats: {known}"))
    if len(data) > LARGEST:
        raise ValidationFailed(("file", f"{name} is larger than {LARGEST // 10**6} MB"))
    if unit and unit not in UNITS:
        raise ValidationFailed(("unit", f"{unit!r} is not a unit of length; available are {', '.join(UNITS)}"))
    imported = _read_in_worker(format, name, data, UNITS.get(unit, 1e-3), context, seconds, memory)
    if isinstance(imported, Opened):
        for block in imported.contents:
            context.kernel_pool.contents.put(block)
        return from_data(imported.data, context)
    if imported.unitless and not unit:
        size = f"{imported.size * 1e3:.4g}"  # read as if it were in millimetres
        raise ValidationFailed(
            ("unit", f"{name} does not say its unit; its largest size is {size}: choose {', '.join(UNITS)}")
        )
    return _document(name, imported, context)


def _read_in_worker(
    format: Format, name: str, data: bytes, metre: float, context: Context, seconds: float, memory: int
) -> ImportedSolids | Opened:
    """What a worker with limits finds in a file. No more than `AT_ONCE` files are read at a time."""
    if not context.reading.acquire(timeout=seconds):
        raise ValidationFailed(("file", f"{name}: other files are still being read; try again"))
    try:
        return _by_worker(format, name, data, metre, seconds, memory)
    finally:
        context.reading.release()


def _by_worker(
    format: Format, name: str, data: bytes, metre: float, seconds: float, memory: int
) -> ImportedSolids | Opened:
    worker = Worker(_work)
    try:
        worker.pipe.send((format.read, format.take, data, metre, seconds, memory))  # both by the names of their modules
        if not worker.pipe.poll(seconds):
            raise ValidationFailed(("file", f"{name} was not read after {seconds:.0f} s; stopped"))
        good, answer = worker.pipe.recv()
    except (EOFError, ConnectionError) as error:
        raise ValidationFailed(("file", f"{name}: it cannot be read: it is damaged, or too large")) from error
    finally:
        worker.stop()
    if isinstance(answer, list):
        raise ValidationFailed(*answer)
    if not good:
        raise ValidationFailed(("file", f"{name}: {answer}"))
    assert isinstance(answer, ImportedSolids | Opened)
    return answer


def _work(connection: Connection) -> None:
    read, take, data, metre, seconds, memory = connection.recv()
    limited(seconds, memory)
    try:
        answer: tuple[bool, Any] = (True, take(data, metre) if read is None else read(data))
    except ValidationFailed as error:
        answer = (False, list(error.faults[:MOST_FAULTS]))
    except MemoryError:
        answer = (False, f"it needs more than {memory / 1e9:.1f} GB of memory")
    except ValueError as error:
        answer = (False, str(error))
    except Exception:  # a broken file breaks its reader in many ways
        answer = (False, "it is damaged: what it holds is not as its format says")
    connection.send(answer)


def limited(seconds: float, memory: int) -> None:
    """Limits this process to so much more memory than it has, and to so much time."""
    with open("/proc/self/statm", encoding="ascii") as told_:
        has = int(told_.read().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (has + memory, has + memory))
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds) + 5, int(seconds) + 10))
    resource.setrlimit(resource.RLIMIT_FSIZE, (4 * LARGEST, 4 * LARGEST))


def _document(name: str, imported: ImportedSolids, context: Context) -> Document:
    """A mechanism of what was taken."""
    file = PurePath(name).name[:200]
    title = (PurePath(file).stem.strip() or "Parts")[:80]
    data: dict[str, Any] = {"name": title, "note": "; ".join(imported.said)[:1900], "parts": {}, "placed": {}}
    contents, ids = context.kernel_pool.contents, []
    for design in imported.designs:
        own = design.part or {"element": {"kind": "imported", "contents": contents.put(design.contents), "file": file}}
        i = new_id(design.name, set(data["parts"]))
        data["parts"][i] = {"name": design.name, "material": "steel", "colour": design.colour, **own}
        ids.append(i)
    empty, names = Document(name=title), set[str]()
    for use in imported.uses:
        called = _fresh(use.name, names)
        names.add(called)
        i = new_id(called, set(data["placed"]))
        start = start_fields(empty, np.array(use.pose))
        data["placed"][i] = {"name": called, "part": ids[use.design], "start": start}
    data["frame"] = next(iter(data["placed"]), None)
    return validate(data)


def _fresh(name: str, taken_: set[str]) -> str:
    return name if name not in taken_ else next(n for k in range(2, 5000) if (n := f"{name[:74]} {k}") not in taken_)
