"""The store: every revision of every mechanism, in SQLite."""

from uhrwerk.store.folder import Folder, FolderInUse
from uhrwerk.store.opening import backed_up, faults
from uhrwerk.store.store import Conflict, Current, Missing, Store, StoreError
from uhrwerk.store.tables import MechanismRow, Result, Revision

__all__ = [
    "Conflict",
    "Current",
    "Folder",
    "FolderInUse",
    "MechanismRow",
    "Missing",
    "Result",
    "Revision",
    "Store",
    "StoreError",
    "backed_up",
    "faults",
]
