"""What every machine element defines: its faults, its solid, its datums, its derived values."""

from __future__ import annotations

from typing import ClassVar

from uhrwerk.core.elements.drawn import DrawnDimension
from uhrwerk.core.elements.growth import Ground, Growth
from uhrwerk.core.field import Model, Numbers
from uhrwerk.core.solids import Datum, Recipe

#: a derived value: its name, SI value or words, and its dimension ("text" for words)
Derived = tuple[str, float | str, str]


def spoken(where: str) -> str:
    """A field of an element in words: "bore 1 x" of `bores.bore_1.x`."""
    return " ".join(where.split(".")[-2:]).replace("_", " ")


class Element(Model):
    """One kind of element: the fields are what a designer states, in formulas; each question is asked of their `numbers`.

    `title` and `about` are its name and what it is, in the catalogue. `blanks` are what a new entry of a field that holds
    several things starts from, such as one more bore. `hint` is the length that it is known by in a list;
    `group` is what it is for, in the catalogue. `datums_from_faces`: its datums are the faces of its solid, known once that is built.
    """

    title: ClassVar[str]
    about: ClassVar[str]
    blanks: ClassVar[dict[str, Model]] = {}
    hint: ClassVar[str] = ""
    group: ClassVar[str] = "Others"
    datums_from_faces: ClassVar[bool] = False

    kind: str

    @staticmethod
    def faults(n: Numbers) -> list[tuple[str, str]]:
        """Fields whose sizes do not fit the others, and why, in words that follow the field's name."""
        return []

    @staticmethod
    def solid(n: Numbers) -> Recipe:
        """How its bodies are made, for sizes without faults."""
        raise NotImplementedError

    @staticmethod
    def datums(n: Numbers) -> dict[str, Datum]:
        """The places to join by."""
        raise NotImplementedError

    @staticmethod
    def dimensions(n: Numbers) -> list[DrawnDimension]:
        """Its dimensions, as a drawing shows them."""
        return []

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        """What of this kind may grow on a datum, sized from it."""
        return []

    @staticmethod
    def derived(n: Numbers) -> list[Derived]:
        """Values that follow from the sizes."""
        return []
