"""What a part is by design: a part like another with all that it takes from that one."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from uhrwerk.core.document.document import Document, Part, refusal
from uhrwerk.core.elements.element import Element
from uhrwerk.core.elements.like import Like
from uhrwerk.core.field import ValidationFailed


def whole(document: Document, part: str) -> Part:
    """A part with what it takes from the one that it is like: that one's element, its build steps before its own."""
    own = document.parts[part]
    if not isinstance(own.element, Like) or not own.element.part:
        return own
    first = whole(document, own.element.part)
    data = first.model_dump(mode="json")
    for change in own.element.changes.values():
        if not change.path:
            continue  # none is chosen yet
        *steps, last = change.path.split(".")
        holder: Any = data
        for step in steps:
            holder = holder.get(step) if isinstance(holder, dict) else None
        if isinstance(holder, dict) and last in holder and change.path.partition(".")[0] in ("element", "steps"):
            holder[last] = change.formula
        else:
            raise ValidationFailed((f"parts.{part}.element.changes", f"{change.path!r} is no number of {first.name}"))
    taken = [i for i in own.steps if i in first.steps]
    if taken:
        raise ValidationFailed(
            (f"parts.{part}.steps.{taken[0]}", f"this id is that of a step of {first.name}: choose another")
        )
    try:
        return Part.model_validate({**data, "name": own.name, "material": own.material})
    except ValidationError as error:
        raise refusal(error, f"parts.{part}.") from error


def element_of(document: Document, placed: str) -> Element:
    """The element of a placed part; see `element_of_part`."""
    return element_of_part(document, document.placed[placed].part)


def element_of_part(document: Document, part: str) -> Element:
    """The element of a part, of one like another that one's with the numbers changed; its own where that cannot be had."""
    try:
        return whole(document, part).element
    except ValidationFailed:  # said where the part is built
        return document.parts[part].element


def is_mirrored(document: Document, part: str) -> bool:
    """Whether a part is the image of the one that it is like, all told."""
    element = document.parts[part].element
    if not isinstance(element, Like) or not element.part:
        return False
    return element.mirrored != is_mirrored(document, element.part)
