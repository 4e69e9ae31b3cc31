"""The praline-wrapping machine of the invented confectioner Quittenhof, module by module, written with the public API.

Each module is a mechanism of its own with at least one requirement that fails at first; `MENDED` in each tells what
would mend it. The files beside are what `write` makes of them.
"""

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
