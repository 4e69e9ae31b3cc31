"""Curves: quantities that a designer follows over the cycle. Each kind is a file of `core.curves`."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, ClassVar

from uhrwerk.core.field import Kinds, Model, Name


class Curve(Model):
    """What all curves state. `title` names its kind where one is chosen."""

    title: ClassVar[str]

    kind: str
    name: Name

    def faults(self, document: Any) -> Iterable[tuple[str, str]]:
        """Fields that do not fit the document, and why."""
        return ()


CURVES: Kinds[Curve] = Kinds("curve")
