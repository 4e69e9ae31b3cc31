"""The store: revisions, undo and redo, conflicts, migrations, a locked or damaged database."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import event
from sqlmodel import SQLModel

import uhrwerk.store.store as module
from uhrwerk.core.document import Document, ValidationFailed, apply, parse
from uhrwerk.store import Conflict, Missing, Store, StoreError, backed_up, faults


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    made = Store(tmp_path / "uhrwerk.db")
    yield made
    made.close()


def edit(store: Store, key: str, base: int, value: str) -> int:
    command = parse({"kind": "set_parameter", "name": "w", "formula": value})
    return store.change(key, base, apply(store.current(key).document, command), command).revision


def value_of(store: Store, key: str) -> str | None:
    found = store.current(key).document.parameters.get("w")
    return found.formula if found else None


def test_revisions_undo_redo_and_reopening(store: Store, tmp_path: Path) -> None:
    key = store.create(Document(name="Pusher"))
    assert key == "pusher"
    assert edit(store, key, 1, "1 mm") == 2
    assert edit(store, key, 2, "2 mm") == 3
    assert store.undo(key, 3).revision == 2
    assert value_of(store, key) == "1 mm"
    again = Store(tmp_path / "uhrwerk.db")
    current = again.current(key)
    assert (current.revision, current.undo, current.redo) == (2, "parameter w = 1 mm", "parameter w = 2 mm")
    assert again.redo(key, 2).revision == 3
    assert [r.number for r, _ in again.revisions(key)] == [3, 2, 1]
    again.close()


def test_a_change_after_undo_starts_a_new_line_and_loses_nothing(store: Store) -> None:
    key = store.create(Document(name="x"))
    edit(store, key, 1, "1 mm")
    store.undo(key, 2)
    assert edit(store, key, 1, "9 mm") == 3
    assert store.current(key).redo is None
    assert store.undo(key, 3).revision == 1
    assert store.redo(key, 1).revision == 3
    assert store.document(key, 2).parameters["w"].formula == "1 mm"


def test_a_change_reads_no_more_after_many_revisions(store: Store) -> None:
    """The documents of a long history are not looked through: as many statements after 60 revisions as after 3."""
    key, asked = store.create(Document(name="x")), []

    def heard(*told: object) -> None:
        asked.append(told[2])

    event.listen(store.engine, "before_cursor_execute", heard)
    counts = []
    for k in range(1, 61):
        asked.clear()
        edit(store, key, k, f"{k} mm")
        counts.append(len(asked))
    assert len(set(counts[2:])) == 1, counts
    for k in range(61, 21, -1):
        store.undo(key, k)
    asked.clear()
    assert store.current(key).redo == "parameter w = 21 mm"
    assert len(asked) <= 6
    event.remove(store.engine, "before_cursor_execute", heard)


def test_undo_at_the_start_and_redo_at_the_end(store: Store) -> None:
    key = store.create(Document(name="x"))
    with pytest.raises(Missing, match="nothing to undo"):
        store.undo(key, 1)
    with pytest.raises(Missing, match="nothing to redo"):
        store.redo(key, 1)


def test_two_tabs_one_wins_the_other_is_told(store: Store) -> None:
    key = store.create(Document(name="x"))
    outcomes: list[str] = []
    gate = threading.Barrier(2)

    def tab(value: str) -> None:
        gate.wait()
        try:
            edit(store, key, 1, value)
            outcomes.append("taken")
        except Conflict as error:
            assert "revision 2 is current" in str(error)
            outcomes.append("told")

    tabs = [threading.Thread(target=tab, args=(f"{i} mm",)) for i in (1, 2)]
    for t in tabs:
        t.start()
    for t in tabs:
        t.join()
    assert sorted(outcomes) == ["taken", "told"]
    assert store.current(key).revision == 2


@settings(max_examples=12)
@given(steps=st.lists(st.sampled_from(["edit", "undo", "redo"]), max_size=14))
def test_any_walk_agrees_with_a_plain_list(tmp_path_factory: pytest.TempPathFactory, steps: list[str]) -> None:
    """The model: a list of values and a place in it."""
    store = Store(tmp_path_factory.mktemp("walk") / "uhrwerk.db")
    key = store.create(Document(name="x"))
    line: list[str | None] = [None]
    at = 0
    for n, step in enumerate(steps):
        revision = store.current(key).revision
        if step == "edit":
            edit(store, key, revision, f"{n} mm")
            line = [*line[: at + 1], f"{n} mm"]
            at += 1
        elif step == "undo" and at > 0:
            store.undo(key, revision)
            at -= 1
        elif step == "redo" and at + 1 < len(line):
            store.redo(key, revision)
            at += 1
        assert value_of(store, key) == line[at]
    store.close()


def test_shelf_and_results(store: Store) -> None:
    key = store.create(Document(name="x"))
    assert store.shelf()[0][2] is None
    store.keep_result(key, 1, failing=1, unknown=0, total=3, words="Rocker clears post")
    store.keep_result(key, 1, failing=2, unknown=0, total=3, words="Rocker clears post")
    result = store.shelf()[0][2]
    assert result is not None
    assert (result.failing, result.total) == (2, 3)
    store.remove(key)
    assert store.shelf() == []
    with pytest.raises(Missing):
        store.current(key)


def test_migrations_give_the_tables_that_the_code_states(store: Store) -> None:
    with store.engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), SQLModel.metadata) == []


def test_write_ahead_log_and_foreign_keys_are_on(store: Store) -> None:
    with store.engine.connect() as connection:
        got = [
            connection.exec_driver_sql(f"PRAGMA {p}").scalar() for p in ("journal_mode", "foreign_keys", "synchronous")
        ]
    assert got == ["wal", 1, 2]


def test_a_locked_database_is_told_and_nothing_is_half_written(
    store: Store, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    key = store.create(Document(name="x"))
    monkeypatch.setattr(module, "BUSY_SECONDS", 0.2)
    impatient = Store(tmp_path / "uhrwerk.db")
    other = sqlite3.connect(tmp_path / "uhrwerk.db", isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    with pytest.raises(StoreError, match="busy with other changes"):
        edit(impatient, key, 1, "1 mm")
    other.execute("ROLLBACK")
    other.close()
    assert impatient.current(key).revision == 1
    assert edit(impatient, key, 1, "1 mm") == 2
    impatient.close()


def test_a_full_disk_is_told(store: Store) -> None:
    key = store.create(Document(name="x"))
    with store.engine.connect() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
    raw = store.engine.raw_connection()
    raw.driver_connection.execute(f"PRAGMA max_page_count={pages}")  # type: ignore[union-attr]
    raw.close()
    command = parse({"kind": "set_value", "path": "note", "value": "n" * 1900})
    after = apply(store.current(key).document, command)
    with pytest.raises(StoreError, match="disk is full"):  # the pool hands the limited connection out again
        for base in range(1, 60):
            store.change(key, base, after, command)
    assert store.current(key).document.name == "x"


def test_a_damaged_file_is_told(tmp_path: Path) -> None:
    (tmp_path / "uhrwerk.db").write_bytes(b"this is no database at all" * 400)
    with pytest.raises(StoreError, match="damaged"):
        Store(tmp_path / "uhrwerk.db")


def test_variants_stand_where_they_were_left(store: Store) -> None:
    key = store.create(Document(name="x"))
    edit(store, key, 1, "1 mm")
    edit(store, key, 2, "2 mm")
    store.undo(key, 3)
    assert store.variants(key) == []
    branched = store.branch(key, 2, 1, "brass")
    assert (branched.revision, branched.variant, branched.undo, branched.redo) == (1, "brass", None, None)
    assert edit(store, key, 1, "9 mm") == 4
    with pytest.raises(Conflict):
        store.switch(key, 1, "as begun")
    first = store.switch(key, 4, "as begun")
    assert (first.revision, first.redo) == (2, "parameter w = 2 mm")  # undone there, and still to be had again
    assert value_of(store, key) == "1 mm"
    assert [(v.name, r.number) for v, r, _ in store.variants(key)] == [("as begun", 2), ("brass", 4)]
    assert edit(store, key, 2, "5 mm") == 5
    assert [(v.name, r.number) for v, r, _ in store.variants(key)] == [("as begun", 5), ("brass", 4)]
    assert store.switch(key, 5, "brass").undo == "parameter w = 9 mm"
    assert value_of(store, key) == "9 mm"


def test_variants_are_refused_by_name_and_forgotten_without_loss(store: Store) -> None:
    key = store.create(Document(name="x"))
    edit(store, key, 1, "1 mm")
    store.branch(key, 2, 1, "brass")
    for name, words in [("brass", "already"), ("as begun", "already"), (" ", "give the variant a name")]:
        with pytest.raises(ValidationFailed, match=words):
            store.branch(key, 1, 2, name)
    with pytest.raises(ValidationFailed, match="current"):
        store.drop_variant(key, "brass")
    with pytest.raises(ValidationFailed, match="no variant 'iron'"):
        store.switch(key, 1, "iron")
    with pytest.raises(Missing):
        store.branch(key, 1, 77, "iron")
    store.drop_variant(key, "as begun")
    assert store.variants(key) == []
    assert store.current(key).variant == ""
    assert [r.number for r, _ in store.revisions(key)] == [2, 1]


def test_baseline_and_names_are_kept(store: Store, tmp_path: Path) -> None:
    key = store.create(Document(name="x"))
    edit(store, key, 1, "1 mm")
    assert store.pin(key, 1).baseline == 1
    store.call(key, 1, " first try ")
    with pytest.raises(Missing):
        store.pin(key, 9)
    again = Store(tmp_path / "uhrwerk.db")
    assert again.current(key).baseline == 1
    assert [r.name for r, _ in again.revisions(key)] == ["", "first try"]
    assert again.pin(key, None).baseline is None
    again.close()


def test_a_newer_database_is_not_opened(store: Store, tmp_path: Path) -> None:
    store.create(Document(name="x"))
    store.close()
    with sqlite3.connect(tmp_path / "uhrwerk.db") as database:
        database.execute("update alembic_version set version_num = '0999'")
    with pytest.raises(StoreError, match=r"newer Uhrwerk .form 0999"):
        Store(tmp_path / "uhrwerk.db")


def test_a_damaged_page_in_the_middle_is_noticed_at_the_start(store: Store, tmp_path: Path) -> None:
    """One of five such went unnoticed."""
    key = store.create(Document(name="x"))
    for base in range(1, 40):
        edit(store, key, base, f"{base} mm")
    store.close()
    path = tmp_path / "uhrwerk.db"
    with sqlite3.connect(path) as database:
        database.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        (page,) = database.execute("select rootpage from sqlite_master where name = 'ix_revision_mechanism'").fetchone()
    assert faults(path) == []
    data = bytearray(path.read_bytes())
    data[(page - 1) * 4096 : page * 4096] = bytes(range(256)) * 16
    path.write_bytes(bytes(data))
    with pytest.raises(StoreError, match="damaged"):
        Store(path)


def test_a_copy_is_left_before_a_migration(tmp_path: Path) -> None:
    path = tmp_path / "uhrwerk.db"
    store = Store(path)
    key = store.create(Document(name="x"))
    store.close()
    with sqlite3.connect(path) as database:  # as the form before left it
        database.execute("drop table retired")
        for column in ("folder", "deleted"):
            database.execute(f"alter table mechanism drop column {column}")
        database.execute("update alembic_version set version_num = '0003'")
    again = Store(path)
    assert again.current(key).document.name == "x"
    again.remove(key)
    again.close()
    (copy,) = tmp_path.glob("uhrwerk.db.before-*")
    assert copy.stat().st_mode & 0o077 == 0
    with sqlite3.connect(copy) as database:
        assert database.execute("select version_num from alembic_version").fetchone() == ("0003",)
        assert database.execute("select id from mechanism").fetchall() == [(key,)]


def test_a_copy_is_of_one_moment(store: Store, tmp_path: Path) -> None:
    key = store.create(Document(name="x"))
    other = sqlite3.connect(tmp_path / "uhrwerk.db", isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    other.execute("delete from mechanism")
    backed_up(tmp_path / "uhrwerk.db", tmp_path / "copy.db")
    other.execute("ROLLBACK")
    assert faults(tmp_path / "copy.db") == []
    with sqlite3.connect(tmp_path / "copy.db") as database:
        assert database.execute("select id from mechanism").fetchall() == [(key,)]
