"""Opening a database: whether it is sound, whether it is of this program, and a copy of it before it is changed to today's form."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine

#: what is wrong that is told, at most
MOST_FAULTS = 5


class Unsound(RuntimeError):
    """A database that cannot be opened as it is; the message says what to do."""


def opened(path: Path, engine: Engine) -> None:
    """Brings the database of a path to the form of today. Unsound where it is damaged, or of a newer program. Where it has to be
    changed, a copy of it as it was is made first, beside it."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    script = ScriptDirectory.from_config(config)
    with engine.begin() as connection:
        _sound(connection)
        now, head = MigrationContext.configure(connection).get_current_revision(), script.get_current_head()
        known = {r.revision for r in script.walk_revisions()}
    if now is not None and now not in known:
        raise Unsound(
            f"It was written by a newer Uhrwerk (form {now}; this one knows {head}). Start that one, or give another folder "
            "with --data; nothing was changed."
        )
    if now == head:
        return
    if now is not None:
        backed_up(path, path.with_name(f"{path.name}.before-{head}"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def _sound(connection: Connection) -> None:
    wrong = [row[0] for row in connection.exec_driver_sql(f"PRAGMA quick_check({MOST_FAULTS})") if row[0] != "ok"]
    if wrong:
        raise Unsound(
            f"The database is damaged ({'; '.join(wrong)}). Put a copy in its place, or begin anew with --fresh, which moves it "
            "aside; see docs/data.md. Nothing was changed."
        )


def faults(path: Path) -> list[str]:
    """What SQLite finds wrong with a database when it looks at all of it, its indices and references too; nothing where it is sound."""
    with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as connection:
        faults_ = [str(row[0]) for row in connection.execute("PRAGMA integrity_check") if row[0] != "ok"]
        broken = [
            f"a row of {row[0]} refers to none of {row[2]}" for row in connection.execute("PRAGMA foreign_key_check")
        ]
    return faults_ + broken


def backed_up(path: Path, to: Path) -> None:
    """A copy of a database as it is at one moment, whoever writes to it meanwhile."""
    rough = to.with_name(f"{to.name}.part")
    with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as source:
        rough.unlink(missing_ok=True)
        rough.touch(mode=0o600)
        with closing(sqlite3.connect(rough)) as target:
            source.backup(target)
    rough.replace(to)
