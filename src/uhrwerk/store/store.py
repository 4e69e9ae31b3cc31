"""The store: revisions of mechanisms in SQLite. A change that was answered survives a kill of the process."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import count
from pathlib import Path
from typing import Any

from sqlalchemy import event, func, text
from sqlalchemy.exc import DatabaseError, OperationalError
from sqlalchemy.orm import defer
from sqlmodel import Session, col, create_engine, select

from uhrwerk.core.cache import Cache
from uhrwerk.core.context import Context
from uhrwerk.core.document import Command, Document, new_id, words, write
from uhrwerk.core.document.material import Material
from uhrwerk.core.upgrade import read
from uhrwerk.store import variants
from uhrwerk.store.opening import Unsound, opened
from uhrwerk.store.tables import Content, MechanismRow, OwnMaterial, Result, Retired, Revision, Variant, now

BUSY_SECONDS = 5.0
#: connections that are kept, and as many more for a while: no fewer than threads that may ask at once
CONNECTIONS = 25
#: the option of a connection whose transactions write
WRITES = "writes"
#: documents that are kept as they were read, since a change asks for the same one several times
READ = 24
#: days that a deleted mechanism is kept
BIN_DAYS = 30


class StoreError(RuntimeError):
    """The database cannot be used; the message says what to do. Nothing was half-written."""


class Missing(LookupError):
    """There is no such mechanism or revision."""


class Conflict(RuntimeError):
    """The change was made on a revision that is no longer the current one."""

    def __init__(self, based_on: int, current: Revision) -> None:
        super().__init__(
            f"This was changed elsewhere: your change was made on revision {based_on}, revision {current.number} is current now "
            f"({current.words}). Load it and make the change again; what you typed is kept."
        )
        self.current = current.number


@dataclass(frozen=True)
class Current:
    """The current revision, and where undo and redo lead."""

    mechanism: str
    revision: int
    words: str
    document: Document
    undo: str | None  # words of what undo takes back
    redo: str | None
    variant: str = ""  # its line's name, where there are several
    baseline: int | None = None  # number of the revision that is pinned
    time: datetime | None = None  # when it was made


_Standing = tuple[MechanismRow, Revision, Revision | None]


class Store:
    """The database at `path`. Documents of older formats are brought up with a `context`."""

    def __init__(self, path: Path, context: Context | None = None) -> None:
        self._context = context
        path.parent.mkdir(parents=True, exist_ok=True)
        self._read: Cache[Document] = Cache(READ)
        self.engine = create_engine(
            f"sqlite:///{path}",
            connect_args={"timeout": BUSY_SECONDS, "check_same_thread": False},
            pool_size=CONNECTIONS,
            max_overflow=CONNECTIONS,
        )
        event.listen(self.engine, "connect", _prepare)
        event.listen(self.engine, "begin", _begin)
        self._writer = self.engine.execution_options(**{WRITES: True})
        with self._guard():
            opened(path, self._writer)
        self.empty_bin()

    def close(self) -> None:
        self.engine.dispose()

    @contextmanager
    def _guard(self) -> Iterator[None]:
        try:
            yield
        except OperationalError as error:
            cause = str(error.orig)
            if "locked" in cause or "busy" in cause:
                raise StoreError(
                    "The database is busy with other changes. Nothing was changed; try again in a moment."
                ) from error
            if "full" in cause:
                raise StoreError("The disk is full. Make room and try again; nothing was changed.") from error
            raise StoreError(f"The database cannot be used ({cause}); nothing was changed.") from error
        except Unsound as error:
            raise StoreError(str(error)) from error
        except DatabaseError as error:
            raise StoreError(f"The database file is damaged ({error.orig}). Put it aside and start again.") from error

    @contextmanager
    def _reading(self) -> Iterator[Session]:
        """One state of the database, whatever is written meanwhile; it waits for nobody."""
        with self._guard(), Session(self.engine, expire_on_commit=False) as session:
            yield session

    @contextmanager
    def _writing(self) -> Iterator[Session]:
        """Holds the write lock from its start: what is read, checked and written is of one moment. Nothing large may be read or
        parsed in it. It is committed at its end."""
        with self._guard(), Session(self._writer, expire_on_commit=False) as session:
            yield session
            session.commit()

    # reading

    def shelf(self, deleted: bool = False) -> list[tuple[MechanismRow, Revision, Result | None]]:
        """Every mechanism with its current revision and what was found for it, last changed first; or those in the bin."""
        there = col(MechanismRow.deleted)
        with self._reading() as s:
            rows = s.exec(
                select(MechanismRow, Revision, Result)
                .join(Revision, col(Revision.id) == col(MechanismRow.head))
                .join(Result, col(Result.revision) == col(Revision.id), isouter=True)
                .where(there.is_not(None) if deleted else there.is_(None))
                .order_by(there.desc(), col(Revision.time).desc())
            )
            return [(m, r, result) for m, r, result in rows]

    def current(self, mechanism: str) -> Current:
        with self._reading() as s:
            stand = _standing(s, _result(s, mechanism))
        return self._current(stand)

    def at(self, mechanism: str, base: int) -> Current:
        """The current revision, on which a change is to be made. Conflict if it is not number `base`."""
        with self._reading() as s:
            m = _result(s, mechanism)
            _agreed(s, m, base)
            stand = _standing(s, m)
        return self._current(stand)

    def document(self, mechanism: str, number: int) -> Document:
        with self._reading() as s:
            return self._told(_numbered(s, mechanism, number))

    def before(self, mechanism: str, number: int) -> Document | None:
        """The document that a revision was made from; None of the first."""
        with self._reading() as s:
            row = s.exec(select(Revision).where(Revision.mechanism == mechanism, Revision.number == number)).first()
            return self._told(_revision(s, row.parent)) if row is not None and row.parent is not None else None

    def _told(self, row: Revision) -> Document:
        """The document of a revision, by its text."""
        return self._read.get(_key(row.document), lambda: read(row.document, self._context))

    def revisions(self, mechanism: str, most: int = 300) -> list[tuple[Revision, Result | None]]:
        """The latest revisions, newest first, without their documents, each with what was found for it."""
        with self._reading() as s:
            _result(s, mechanism)
            query = (
                select(Revision, Result)
                .join(Result, col(Result.revision) == col(Revision.id), isouter=True)
                .where(Revision.mechanism == mechanism)
                .order_by(col(Revision.number).desc())
            )
            return list(s.exec(query.limit(most).options(defer(col(Revision.document)))))  # type: ignore[arg-type]

    def _current(self, stand: _Standing) -> Current:
        m, head, forward = stand
        return Current(
            m.id, head.number, head.words, self._told(head),
            head.words if head.parent is not None else None, forward.words if forward is not None else None,
            m.variant, m.baseline, head.time,
        )  # fmt: skip

    # changing

    def create(self, document: Document, demo: bool = False, key: str | None = None) -> str:
        """Puts a new mechanism on the shelf; returns its id, which no other ever had."""
        written = write(document)
        with self._writing() as s:
            taken = {*s.exec(select(MechanismRow.id)), *s.exec(select(Retired.id))}
            m = MechanismRow(id=key or new_id(document.name, taken), name=document.name, demo=demo)
            s.add(m)
            s.flush()
            first = Revision(mechanism=m.id, number=1, words="started", document=written)
            s.add(first)
            s.flush()
            m.head = m.tip = first.id or 0
            s.add(m)
            return m.id

    def change(self, mechanism: str, base: int, after: Document, command: Command) -> Current:
        """Adds a revision made by `command` on revision number `base`. Conflict if another is current."""
        summary, written = words(command, self.at(mechanism, base).document), write(after)
        kept = json.dumps(command.model_dump(mode="json"), ensure_ascii=False)
        with self._writing() as s:
            m = _result(s, mechanism)
            head = _agreed(s, m, base)
            number = s.exec(select(func.max(Revision.number)).where(Revision.mechanism == mechanism)).one() + 1
            row = Revision(
                mechanism=mechanism, number=number, parent=head.id, words=summary, command=kept, document=written
            )
            s.add(row)
            s.flush()
            m.head = m.tip = row.id or 0
            m.name = after.name
            s.add(m)
            stand = _standing(s, m)
        self._read.put(_key(written), after)
        return self._current(stand)

    def undo(self, mechanism: str, base: int) -> Current:
        return self._step(mechanism, base, back=True)

    def redo(self, mechanism: str, base: int) -> Current:
        return self._step(mechanism, base, back=False)

    def _step(self, mechanism: str, base: int, back: bool) -> Current:
        with self._writing() as s:
            m = _result(s, mechanism)
            head = _agreed(s, m, base)
            target = (_revision(s, head.parent) if head.parent is not None else None) if back else _next(s, m)
            if target is None:
                raise Missing("There is nothing to undo." if back else "There is nothing to redo.")
            m.head = target.id or 0
            m.name = _name(s, m.head)
            s.add(m)
            stand = _standing(s, m)
        return self._current(stand)

    def pin(self, mechanism: str, number: int | None) -> Current:
        """The revision that all is shown against from now on; None: none."""
        with self._writing() as s:
            m = _result(s, mechanism)
            m.baseline = None if number is None else _numbered(s, mechanism, number).number
            s.add(m)
            stand = _standing(s, m)
        return self._current(stand)

    def call(self, mechanism: str, number: int, name: str) -> None:
        """Names a revision, or takes it away."""
        with self._writing() as s:
            row = _numbered(s, mechanism, number)
            row.name = name.strip()
            s.add(row)

    def variants(self, mechanism: str) -> list[tuple[Variant, Revision, Result | None]]:
        """Its variants, each with the revision where it stands and what was found for that."""
        with self._reading() as s:
            m = _result(s, mechanism)
            stand = [(v, m.head if v.name == m.variant else v.head) for v in variants.variants(s, m)]
            return [(v, _revision(s, head), s.get(Result, head)) for v, head in stand]

    def branch(self, mechanism: str, base: int, number: int, name: str) -> Current:
        """Creates a variant from a revision and switches to it. Conflict if another than `base` is current."""
        return self._on(mechanism, base, lambda s, m: variants.branch(s, m, _numbered(s, mechanism, number), name))

    def switch(self, mechanism: str, base: int, name: str) -> Current:
        """Switches to another variant."""
        return self._on(mechanism, base, lambda s, m: variants.switch(s, m, name))

    def drop_variant(self, mechanism: str, name: str) -> None:
        """Forgets a variant that is not current; its revisions stay."""
        with self._writing() as s:
            variants.drop(s, _result(s, mechanism), name)

    def _on(self, mechanism: str, base: int, work: Callable[[Session, MechanismRow], None]) -> Current:
        with self._writing() as s:
            m = _result(s, mechanism)
            _agreed(s, m, base)
            work(s, m)
            m.name = _name(s, m.head)
            s.add(m)
            stand = _standing(s, m)
        return self._current(stand)

    def remove(self, mechanism: str) -> None:
        """Puts a mechanism into the bin, where it is kept for `BIN_DAYS`."""
        with self._writing() as s:
            m = _result(s, mechanism)
            m.deleted = now()
            s.add(m)

    def restore(self, mechanism: str) -> Current:
        """Takes a mechanism out of the bin."""
        with self._writing() as s:
            m = s.get(MechanismRow, mechanism)
            if m is None:
                raise Missing(f"There is no mechanism {mechanism!r}; what was deleted is kept for {BIN_DAYS} days.")
            m.deleted = None
            s.add(m)
            stand = _standing(s, m)
        return self._current(stand)

    def put_in_folder(self, mechanism: str, folder: str) -> None:
        """Puts a mechanism into a folder of the shelf, into none if that is empty. It is no revision."""
        with self._writing() as s:
            m = _result(s, mechanism)
            m.folder = folder
            s.add(m)

    def empty_bin(self, before: datetime | None = None) -> int:
        """Deletes for good what was put into the bin before a moment, `BIN_DAYS` ago if none is given; how many that were."""
        before = before or now() - timedelta(days=BIN_DAYS)
        with self._writing() as s:
            old = s.exec(select(MechanismRow).where(col(MechanismRow.deleted) < before)).all()
            for m in old:
                s.delete(m)
                s.add(Retired(id=m.id))
            return len(old)

    def copy(self, mechanism: str) -> Current:
        """A mechanism of its own with the current document of another, under a name that says so."""
        document = self.current(mechanism).document
        names = {m.name for m, _, _ in self.shelf()}
        first = f"{document.name[:70]} copy"
        name = next(n for k in count(1) if (n := first if k == 1 else f"{first} {k}") not in names)
        duplicate = self.create(document.model_copy(update={"name": name}))
        self.put_in_folder(duplicate, next(m.folder for m, _, _ in self.shelf() if m.id == mechanism))
        return self.current(duplicate)

    def known(self) -> set[str]:
        """The ids of all mechanisms that are or ever were on the shelf."""
        with self._reading() as s:
            return {*s.exec(select(MechanismRow.id)), *s.exec(select(Retired.id))}

    def materials(self) -> dict[str, Material]:
        """One's own materials, for all mechanisms."""
        with self._reading() as s:
            rows = s.exec(select(OwnMaterial).order_by(col(OwnMaterial.id)))
            return {row.id: Material.model_validate_json(row.material) for row in rows}

    def keep_material(self, key: str, material: Material) -> None:
        with self._writing() as s:
            s.merge(OwnMaterial(id=key, material=material.model_dump_json()))

    def drop_material(self, key: str) -> None:
        with self._writing() as s:
            row = s.get(OwnMaterial, key)
            if row is None:
                raise Missing(f"You have no material {key!r} of your own.")
            s.delete(row)

    def contents(self, name: str) -> bytes | None:
        """What was kept of a file, by its hash."""
        with self._reading() as s:
            row = s.get(Content, name)
            return None if row is None else row.data

    def keep_contents(self, name: str, data: bytes) -> None:
        with self._writing() as s:
            if s.get(Content, name) is None:
                s.add(Content(name=name, data=data))

    def keep_result(self, mechanism: str, number: int, failing: int, unknown: int, total: int, words: str) -> None:
        with self._writing() as s:
            row = s.exec(select(Revision).where(Revision.mechanism == mechanism, Revision.number == number)).first()
            if row is not None:
                s.merge(Result(revision=row.id or 0, failing=failing, open=unknown, total=total, words=words))


def _key(text_: str) -> str:
    return hashlib.sha256(text_.encode()).hexdigest()


def _prepare(connection: Any, _: Any) -> None:
    connection.isolation_level = None  # transactions are begun below, not by the driver
    cursor = connection.cursor()
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def _begin(connection: Any) -> None:
    # the write lock is taken at the start, so that two tabs cannot both read the same head and then write
    writes = connection.get_execution_options().get(WRITES, False)
    connection.execute(text("BEGIN IMMEDIATE" if writes else "BEGIN"))


def _result(s: Session, mechanism: str) -> MechanismRow:
    m = s.get(MechanismRow, mechanism)
    if m is None:
        raise Missing(f"There is no mechanism {mechanism!r}.")
    if m.deleted is not None:
        raise Missing(f"{m.name} is in the bin: restore it on the shelf.")
    return m


def _revision(s: Session, key: int) -> Revision:
    row = s.get(Revision, key)
    if row is None:
        raise Missing("There is no such revision.")
    return row


def _standing(s: Session, m: MechanismRow) -> _Standing:
    """A mechanism, its current revision and the one to which redo leads: what is told of it once the transaction is over."""
    return m, _revision(s, m.head), _next(s, m)


def _name(s: Session, revision: int) -> str:
    """The name that a mechanism has in a revision, without reading all of that."""
    return str(s.exec(select(func.json_extract(Revision.document, "$.name")).where(Revision.id == revision)).one())


def _agreed(s: Session, m: MechanismRow, base: int) -> Revision:
    """The current revision. Conflict if it is not number `base`."""
    head = _revision(s, m.head)
    if head.number != base:
        raise Conflict(base, head)
    return head


def _numbered(s: Session, mechanism: str, number: int) -> Revision:
    row = s.exec(select(Revision).where(Revision.mechanism == mechanism, Revision.number == number)).first()
    if row is None:
        raise Missing(f"There is no revision {number}.")
    return row


def _next(s: Session, m: MechanismRow) -> Revision | None:
    """The revision after the head, on the way to the tip."""
    if m.tip == m.head:
        return None
    after = select(Revision.id, Revision.parent).where(Revision.mechanism == m.id, col(Revision.id) > m.head)
    parent = dict(s.exec(after).all())  # without their documents: there may be thousands
    at: int | None = m.tip
    while at is not None and parent.get(at) != m.head:
        at = parent.get(at)
    return None if at is None else _revision(s, at)
