"""Variants: several lines of revisions of one mechanism. Switching leaves each where it is."""

from __future__ import annotations

from sqlmodel import Session, col, select

from uhrwerk.core.field import ValidationFailed
from uhrwerk.store.tables import MechanismRow, Revision, Variant

#: what the line is called that was there before others
FIRST = "as begun"


def variants(s: Session, m: MechanismRow) -> list[Variant]:
    """All of a mechanism in the order in which they were made; none where there is one line alone. Where the current one stands,
    the mechanism knows."""
    return list(s.exec(select(Variant).where(Variant.mechanism == m.id).order_by(col(Variant.id))))


def branch(s: Session, m: MechanismRow, row: Revision, name: str) -> None:
    """A variant that begins at a revision, and is current from now on."""
    known = {v.name for v in variants(s, m)} or {FIRST}
    if not name.strip():
        raise ValidationFailed(("name", "give the variant a name"))
    if name in known:
        raise ValidationFailed(("name", f"there is a variant {name!r} already"))
    if not m.variant:
        m.variant = FIRST
        s.add(Variant(mechanism=m.id, name=FIRST, head=m.head, tip=m.tip))
    _leave(s, m)
    m.variant, m.head, m.tip = name, row.id or 0, row.id or 0
    s.add(Variant(mechanism=m.id, name=name, head=m.head, tip=m.tip))
    s.add(m)


def switch(s: Session, m: MechanismRow, name: str) -> None:
    """Switches to another variant, where it was left."""
    variant = _named(s, m, name)
    _leave(s, m)
    m.variant, m.head, m.tip = name, variant.head, variant.tip
    s.add(m)


def drop(s: Session, m: MechanismRow, name: str) -> None:
    """Deletes a variant; its revisions are kept."""
    if name == m.variant:
        raise ValidationFailed(("name", "this variant is current: go to another first"))
    s.delete(_named(s, m, name))
    s.flush()
    if len(variants(s, m)) == 1:  # one line again
        s.delete(_named(s, m, m.variant))
        m.variant = ""
        s.add(m)


def _leave(s: Session, m: MechanismRow) -> None:
    here = _named(s, m, m.variant) if m.variant else None
    if here is not None:
        here.head, here.tip = m.head, m.tip
        s.add(here)
        s.flush()


def _named(s: Session, m: MechanismRow, name: str) -> Variant:
    s.flush()
    variant = s.exec(select(Variant).where(Variant.mechanism == m.id, Variant.name == name)).first()
    if variant is None:
        raise ValidationFailed(("name", f"there is no variant {name!r}"))
    return variant
