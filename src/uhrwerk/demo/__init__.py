"""The praline-wrapping machine of the invented confectioner Quittenhof, module by module, written with the public API.

Each module is a mechanism of its own with at least one requirement that fails at first; `MENDED` in each tells what
would mend it. The files beside are what `write` makes of them.
"""

from __future__ import annotations

from importlib import import_module
from importlib.resources import files

from uhrwerk.core.document import Document
from uhrwerk.core.upgrade import read
from uhrwerk.draft import Draft

#: module -> its function; the order is that of the shelf
MODULES = (
    "foil_tucker",
    "main_drive",
    "folder",
    "pusher",
    "guard_lid",
    "foil_cutter",
    "gripper_ring",
    "planetary_sample",
)


def shipped(module: str) -> Document:
    """A module as it is shipped."""
    text = files("uhrwerk.demo").joinpath(f"{module.replace('_', '-')}.json").read_text(encoding="utf-8")
    return read(text)


def mended(module: str) -> Document:
    """A module with what would mend it."""
    demo = import_module(f"uhrwerk.demo.{module}")
    draft = Draft("x", getattr(demo, module)())
    mended_ = demo.MENDED
    for path, value in mended_.items() if isinstance(mended_, dict) else [mended_]:
        draft.set(path, value)
    return draft.document
