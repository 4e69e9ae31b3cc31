"""Tables: mechanisms, their variants and revisions, and results that may be thrown away."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Column, DateTime, LargeBinary, Text, UniqueConstraint
from sqlmodel import Field, SQLModel


def now() -> datetime:
    return datetime.now(UTC)


class MechanismRow(SQLModel, table=True):
    """`head` is the current revision; `tip` the newest one on its line, to which redo leads; `variant` the line's name, where there
    are several; `baseline` the number of the revision that all is shown against, if one is pinned; `deleted` since when it is in the bin;
    `folder` where it lies on the shelf."""

    __tablename__ = "mechanism"

    id: str = Field(primary_key=True, max_length=60)
    name: str
    head: int = 0
    tip: int = 0
    demo: bool = False
    variant: str = Field(default="", max_length=60)
    baseline: int | None = None
    folder: str = Field(default="", max_length=60)
    deleted: datetime | None = Field(default=None, sa_column=Column(DateTime(timezone=True), nullable=True))


class Retired(SQLModel, table=True):
    """The id of a mechanism that was taken off the shelf: what was kept under it must never be told of another."""

    id: str = Field(primary_key=True, max_length=60)


class Variant(SQLModel, table=True):
    """A line of revisions by its name: where it stood when it was last current."""

    __table_args__ = (UniqueConstraint("mechanism", "name"),)
    id: int | None = Field(default=None, primary_key=True)
    mechanism: str = Field(foreign_key="mechanism.id", index=True, ondelete="CASCADE")
    name: str = Field(max_length=60)
    head: int
    tip: int


class Revision(SQLModel, table=True):
    """An immutable document, with its parent, the command that made it, and the name that somebody gave it."""

    id: int | None = Field(default=None, primary_key=True)
    mechanism: str = Field(foreign_key="mechanism.id", index=True, ondelete="CASCADE")
    number: int
    parent: int | None = Field(default=None, foreign_key="revision.id", index=True, ondelete="CASCADE")
    time: datetime = Field(default_factory=now, sa_column=Column(DateTime(timezone=True), nullable=False))
    words: str
    name: str = Field(default="", max_length=60)
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
