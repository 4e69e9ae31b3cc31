"""The data folder: held by one server at a time, for its user alone, and put aside rather than deleted."""

from __future__ import annotations

import fcntl
import os
from datetime import datetime
from pathlib import Path

LOCK = "uhrwerk.lock"
DATABASE = "uhrwerk.db"


class FolderInUse(RuntimeError):
    """The folder is held by another server; the message says by which."""


class Folder:
    """A data folder that this process holds until it ends or `release` is called: nothing in it is touched before that.

    Held where another process holds it. The lock is a record lock (POSIX `fcntl`): it ends with the process, however that ends,
    and no process that it starts has it.
    """

    def __init__(self, path: Path) -> None:
        path.mkdir(parents=True, exist_ok=True, mode=0o700)
        self.path = path
        self._file = os.open(path / LOCK, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        try:
            fcntl.lockf(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            holder = os.read(self._file, 200).decode(errors="replace").strip()
            os.close(self._file)
            raise FolderInUse(
                f"is in use by another Uhrwerk{f' ({holder})' if holder else ''}; stop that one, or give another folder with --data"
            ) from error
        self.say(f"process {os.getpid()}")

    @property
    def database(self) -> Path:
        return self.path / DATABASE

    def say(self, words: str) -> None:
        """Writes who holds the folder, for whoever asks for it next."""
        os.ftruncate(self._file, 0)
        os.pwrite(self._file, words.encode(), 0)

    def put_aside(self) -> Path | None:
        """Moves the database into a folder of its own beside it; None where there is none. Nothing is deleted."""
        files = sorted(self.path.glob(f"{DATABASE}*"))
        if not files:
            return None
        aside = self.path / f"before-{datetime.now():%Y%m%d-%H%M%S-%f}"
        aside.mkdir(mode=0o700)
        for file in files:
            file.rename(aside / file.name)
        return aside

    def private(self) -> None:
        """Only this user may read or write what lies in it."""
        self.path.chmod(0o700)
        for file in self.path.glob(f"{DATABASE}*"):
            file.chmod(0o600)

    def release(self) -> None:
        os.close(self._file)
