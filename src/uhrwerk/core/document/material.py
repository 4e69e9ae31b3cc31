"""Materials: density, and modulus and strength where they are known; a colour apart from them; where the numbers come from."""

from __future__ import annotations

import csv
from functools import cache
from pathlib import Path
from typing import Annotated

from pydantic import StringConstraints

from uhrwerk.core.field import Density, Model, Name, StressOrOpen

#: red, green and blue in hexadecimal; empty: one that tells neighbours apart
Colour = Annotated[str, StringConstraints(pattern=r"^(#[0-9a-f]{6})?$")]


class Material(Model):
    """What parts are made of. `modulus` of elasticity and `strength` may be open."""

    name: Name
    density: Density
    modulus: StressOrOpen = ""
    strength: StressOrOpen = ""
    colour: Colour = ""
    source: str = ""


@cache
def library() -> dict[str, Material]:
    """The materials that ship with Uhrwerk, by id."""
    path = Path(__file__).parent / "materials.csv"
    lines = [line for line in path.read_text(encoding="utf-8").splitlines() if not line.startswith("#")]
    out = {}
    for row in csv.DictReader(lines):
        out[row["id"]] = Material(
            name=row["name"], density=f"{row['density']} g/cm^3", modulus=f"{row['modulus']} GPa" if row["modulus"] else "",
            strength=f"{row['strength']} MPa" if row["strength"] else "", colour=row["colour"], source="round handbook value, from memory",
        )  # fmt: skip
    return out
