"""The store: every revision of every mechanism, in SQLite."""

from uhrwerk.store.store import Conflict, Current, Missing, Store, StoreError
from uhrwerk.store.tables import Mechanism, Result, Revision

__all__ = ["Conflict", "Current", "Mechanism", "Missing", "Result", "Revision", "Store", "StoreError"]
