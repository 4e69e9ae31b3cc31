"""glTF 2.0, binary: all parts with their names and colours, and the motion over one cycle as an animation; metres.

Khronos Group, glTF 2.0 Specification (2021), sections 3 and 4. The file's y points up: a node above all turns z to there.
"""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np

from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.exchange.placing import standing
from uhrwerk.core.stages.evaluation import Evaluation

_FLOAT, _INDEX = 5126, 5125


class _Buffer:
    """One binary block and what lies where in it."""

    def __init__(self) -> None:
        self.data, self.views, self.accessors = bytearray(), list[dict[str, Any]](), list[dict[str, Any]]()

    def put(self, values: np.ndarray, kind: str, target: int | None = None, bounds: bool = False) -> int:
        """The number of the accessor to some values (n,) or (n, c)."""
        self.data += b"\0" * (-len(self.data) % 4)
        view = {"buffer": 0, "byteOffset": len(self.data), "byteLength": values.nbytes}
        self.views.append(view | ({"target": target} if target else {}))
        self.data += values.tobytes()
        data: dict[str, Any] = {
            "bufferView": len(self.views) - 1, "componentType": _INDEX if values.dtype == np.uint32 else _FLOAT,
            "count": len(values), "type": kind,
        }  # fmt: skip
        if bounds:
            flat = values.reshape(len(values), -1)
            data |= {"min": flat.min(axis=0).tolist(), "max": flat.max(axis=0).tolist()}
        self.accessors.append(data)
        return len(self.accessors) - 1


def _written(e: Evaluation, chosen: Chosen) -> bytes:
    buffer, nodes, meshes, materials, of_node = _Buffer(), list[dict[str, Any]](), [], [], {}
    for one in standing(e, chosen):
        materials.append({"name": one.name, "pbrMetallicRoughness": {"baseColorFactor": [*one.colour, 1.0], "metallicFactor": 0.1, "roughnessFactor": 0.8}})  # fmt: skip
        pieces = []
        for body in one.solid.bodies.values():
            at = buffer.put(body.vertices.astype("<f4"), "VEC3", 34962, bounds=True)
            index = buffer.put(body.triangles.astype("<u4").ravel(), "SCALAR", 34963)
            pieces.append({"attributes": {"POSITION": at}, "indices": index, "material": len(materials) - 1})
        meshes.append({"name": one.name, "primitives": pieces})
        of_node[one.id] = len(nodes)
        nodes.append({"name": one.name, "mesh": len(meshes) - 1, **_place(one.pose)})
    top = {"name": e.document.name, "children": list(range(len(nodes))), "rotation": [-(0.5**0.5), 0.0, 0.0, 0.5**0.5]}
    data: dict[str, Any] = {
        "asset": {"version": "2.0", "generator": "Uhrwerk"}, "scene": 0, "scenes": [{"nodes": [len(nodes)]}],
        "nodes": [*nodes, top], "meshes": meshes, "materials": materials,
    }  # fmt: skip
    if e.motion is not None and e.motion.moving and not chosen.part:
        data["animations"] = [_animation(e, buffer, of_node)]
    data |= {"accessors": buffer.accessors, "bufferViews": buffer.views, "buffers": [{"byteLength": len(buffer.data)}]}
    text = json.dumps(data, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    block = bytes(buffer.data) + b"\0" * (-len(buffer.data) % 4)
    size = 12 + 8 + len(text) + 8 + len(block)
    head = struct.pack("<III", 0x46546C67, 2, size) + struct.pack("<II", len(text), 0x4E4F534A)
    return head + text + struct.pack("<II", len(block), 0x004E4942) + block


def _place(pose: np.ndarray) -> dict[str, list[float]]:
    w, x, y, z = (float(v) for v in pose[3:])
    return {"translation": [float(v) for v in pose[:3]], "rotation": [x, y, z, w]}


def _animation(e: Evaluation, buffer: _Buffer, of_node: dict[str, int]) -> dict[str, Any]:
    """Every moving part's place and turn at every frame; quaternions from one to the next by the shorter way."""
    m = e.mechanism
    times = buffer.put(e.moved.motion.times.astype("<f4"), "SCALAR", bounds=True)
    samplers: list[dict[str, Any]] = []
    channels: list[dict[str, Any]] = []
    for i, node in of_node.items():
        if m.link_of[i] == 0:
            continue
        poses = m.part_pose(i, e.moved.motion.pose)
        turn = poses[:, [4, 5, 6, 3]]
        for path, values in (("translation", poses[:, :3]), ("rotation", turn)):
            output = buffer.put(np.ascontiguousarray(values, dtype="<f4"), "VEC3" if path == "translation" else "VEC4")
            channels.append({"sampler": len(samplers), "target": {"node": node, "path": path}})
            samplers.append({"input": times, "output": output, "interpolation": "LINEAR"})
    return {"name": "Cycle", "samplers": samplers, "channels": channels}


FORMAT = Format(".glb", "Solids and motion", "model/gltf-binary", write=_written)
