"""Solids: recipes, the kernel behind worker processes, and what comes back as plain arrays."""

from uhrwerk.core.solids.datum import Datum, axis, found, plane, same_place
from uhrwerk.core.solids.recipe import Recipe, chamfer, circle, cut_out, extrude, fillet, key, path, recipe, rectangle
from uhrwerk.core.solids.solid import Body, Face, Solid, sharp_edges
from uhrwerk.core.solids.workshop import BuildFailed, Workshop

__all__ = [
    "Body", "BuildFailed", "Datum", "Face", "Recipe", "Solid", "Workshop", "axis", "chamfer", "circle", "cut_out", "extrude",
    "fillet", "found", "key", "path", "plane", "recipe", "rectangle", "same_place", "sharp_edges",
]  # fmt: skip
