"""What a page shows of an evaluated document, as plain data: scene, scheme, lanes, cards. No HTML."""

from uhrwerk.core.picture.catalogue import catalogue, preview
from uhrwerk.core.picture.lanes import lanes
from uhrwerk.core.picture.measuring import measured
from uhrwerk.core.picture.scene import block_of, mesh_block, pose_block
from uhrwerk.core.picture.sketch import sketch
from uhrwerk.core.picture.view import view

__all__ = [
    "block_of", "catalogue", "lanes", "measured", "mesh_block", "pose_block", "preview", "sketch", 
    "view",
]  # fmt: skip
