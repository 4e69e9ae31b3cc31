"""Tables: mechanisms, their revisions, and results that may be thrown away."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Column, DateTime, LargeBinary, Text
from sqlmodel import Field, SQLModel


def now() -> datetime:
    return datetime.now(UTC)


class Mechanism(SQLModel, table=True):
    """`head` is the revision in force; `tip` the newest one on its line, to which redo leads."""

    id: str = Field(primary_key=True, max_length=60)
    name: str
    head: int = 0
    tip: int = 0
    demo: bool = False


class Revision(SQLModel, table=True):
    """An immutable document, with its parent and the command that made it."""

    id: int | None = Field(default=None, primary_key=True)
    mechanism: str = Field(foreign_key="mechanism.id", index=True, ondelete="CASCADE")
    number: int
    parent: int | None = Field(default=None, foreign_key="revision.id", index=True, ondelete="CASCADE")
    time: datetime = Field(default_factory=now, sa_column=Column(DateTime(timezone=True), nullable=False))
    words: str
    command: str | None = Field(default=None, sa_column=Column(Text))
    document: str = Field(sa_column=Column(Text, nullable=False))


class OwnMaterial(SQLModel, table=True):
    """A material of one's own, for all mechanisms."""

    id: str = Field(primary_key=True, max_length=40)
    material: str = Field(sa_column=Column(Text, nullable=False))


class Content(SQLModel, table=True):
    """A solid that came from elsewhere, by the hash of what is in it."""

    name: str = Field(primary_key=True, max_length=32)
    data: bytes = Field(sa_column=Column(LargeBinary, nullable=False))


class Result(SQLModel, table=True):
    """What was found for a revision, in short, for the shelf."""

    revision: int = Field(primary_key=True, foreign_key="revision.id", ondelete="CASCADE")
    failing: int
    open: int
    total: int
    words: str = ""
