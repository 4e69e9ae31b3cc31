"""How much a document may hold: what is larger is refused before anything is made of it."""

from __future__ import annotations

from typing import Any

from uhrwerk.core.field import ValidationFailed

#: bytes of its text; values in it, of every kind; how deep they may be nested
MOST_TEXT, MOST_VALUES, DEEPEST = 8_000_000, 100_000, 60


def bounded(data: Any, most: int = MOST_VALUES, what: str = "document") -> None:
    """ValidationFailed where plain data holds too many values, or is nested too deeply."""
    count, ahead = 0, [(data, 1)]
    while ahead:
        item, depth = ahead.pop()
        inner = item.values() if isinstance(item, dict) else item if isinstance(item, list) else ()
        count += len(inner)
        if count > most:
            raise ValidationFailed((what, f"holds more than {most} values; this is not a mechanism"))
        if depth > DEEPEST:
            raise ValidationFailed((what, f"is nested more than {DEEPEST} deep"))
        ahead += [(x, depth + 1) for x in inner if isinstance(x, dict | list)]
