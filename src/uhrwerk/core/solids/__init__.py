"""Solids: recipes, the kernel behind worker processes, and what comes back as plain arrays."""

from uhrwerk.core.solids.datum import Datum, axis, datums_of, face, plane, same_place, slot
from uhrwerk.core.solids.kernel_pool import BuildFailed, KernelPool
from uhrwerk.core.solids.recipe import (
    Recipe,
    arc_band,
    bar,
    behind,
    bevel,
    chamfer,
    circle,
    cut_out,
    extrude,
    fillet,
    key,
    path,
    recipe,
    rectangle,
    stood,
)
from uhrwerk.core.solids.solid import Body, Face, Solid, outlines, sharp_edges

__all__ = [
    "Body",
    "BuildFailed",
    "Datum",
    "Face",
    "KernelPool",
    "Recipe",
    "Solid",
    "arc_band",
    "axis",
    "bar",
    "behind",
    "bevel",
    "chamfer",
    "circle",
    "cut_out",
    "datums_of",
    "extrude",
    "face",
    "fillet",
    "key",
    "outlines",
    "path",
    "plane",
    "recipe",
    "rectangle",
    "same_place",
    "sharp_edges",
    "slot",
    "stood",
]  # fmt: skip
