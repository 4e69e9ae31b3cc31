"""Triangles from files as designs: closed and turned outward, or refused by name. What was mended is said."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from uhrwerk.core.assembly.start import matrix_pose
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.solids.blob_store import triangles_packed
from uhrwerk.core.solids.imported import ImportedDesign, ImportedSolids, ImportedUse
from uhrwerk.core.solids.triangles import recognised_faces

if TYPE_CHECKING:
    import trimesh

Mesh = tuple[str, Array, NDArray[np.int64], Array]  # name, corners (n, 3), triangles (m, 3), its place (4, 4)

#: triangles of a file, solids in it, at most; sizes, m
TRIANGLES, USES = 500_000, 500
SMALLEST, LARGEST = 1e-6, 1e3
#: edges that do not belong to two triangles, up to which holes are closed: what has more is no solid with holes
MENDABLE = 5_000


def of_meshes(meshes: list[Mesh], metre: float) -> ImportedSolids:
    """Designs and their uses. ValueError, in words, where one is not a closed solid."""
    if sum(len(triangles) for _, _, triangles, _ in meshes) > TRIANGLES:
        raise ValueError(f"there are more than {TRIANGLES:,} triangles in it")
    designs: list[ImportedDesign] = []
    uses: list[ImportedUse] = []
    said: list[str] = []
    known: dict[tuple[str, bytes], list[int]] = {}
    largest = 0.0
    for name, vertices, triangles, matrix in meshes:
        pose, rest = matrix_pose(matrix, metre)
        key = name, np.round(rest, 9).tobytes()
        if key not in known:
            placed = vertices @ rest.T * metre
            largest = max(largest, _checked(placed, name))
            bodies, mended = _closed(placed, triangles, name)
            known[key] = []
            said += [f"mended: {name} ({', '.join(mended)})"] if mended else []
            for k, (v, t) in enumerate(bodies, 1):
                own = (f"{name} {k}" if len(bodies) > 1 else name)[:70].strip() or "Part"
                faces = [f"face_{n}" for n in range(1, len(recognised_faces(v, t)[1]) + 1)]
                known[key].append(len(designs))
                designs.append(ImportedDesign(own, triangles_packed(v, t, faces)))
        uses += [ImportedUse(d, designs[d].name, pose) for d in known[key]]
        if len(uses) > USES:
            raise ValueError(f"there are more than {USES} solids in it")
    return ImportedSolids(designs, uses, said, size=largest)


def _checked(vertices: Array, name: str) -> float:
    if not len(vertices) or not np.isfinite(vertices).all():
        raise ValueError(f"{name} has corners that are no numbers")
    size = float(np.ptp(vertices, axis=0).max())
    if size < SMALLEST or np.abs(vertices).max() > LARGEST:
        raise ValueError(f"{name} is {size:.3g} m large: its sizes or its unit are wrong")
    return size


def _closed(
    vertices: Array, triangles: NDArray[np.int64], name: str
) -> tuple[list[tuple[Array, NDArray[np.int64]]], list[str]]:
    """Closed bodies (corners, triangles) of one mesh, turned outward, each with the hollows that lie in it."""
    import trimesh  # slow to import, and seldom needed

    mesh, mended = trimesh.Trimesh(vertices, triangles, process=False), list[str]()
    mesh.merge_vertices(digits_vertex=8)
    before = len(mesh.faces)
    mesh.update_faces(mesh.nondegenerate_faces(height=1e-12))
    mesh.update_faces(mesh.unique_faces())
    if len(mesh.faces) < before:
        mended.append(f"{before - len(mesh.faces)} degenerate or duplicate triangles")
    if not mesh.is_watertight:
        count = _open_edges(mesh)
        if count <= MENDABLE:
            trimesh.repair.fill_holes(mesh)
            count = _open_edges(mesh)
        if not mesh.is_watertight:
            raise ValueError(f"{name} is not a closed solid: {count} of its edges do not belong to two triangles")
        mended.append("holes closed")
    if not mesh.is_winding_consistent:
        trimesh.repair.fix_winding(mesh)  # type: ignore[no-untyped-call]
        mended.append("triangles reoriented")
    mesh.remove_unreferenced_vertices()
    return _bodies(mesh, name, mended), mended


def _open_edges(mesh: trimesh.Trimesh) -> int:
    a, b = mesh.edges.astype(np.int64).T
    numbered = np.minimum(a, b) * len(mesh.vertices) + np.maximum(a, b)  # one number an edge: fast to sort
    return int((np.unique(numbered, return_counts=True)[1] != 2).sum())


def _bodies(mesh: trimesh.Trimesh, name: str, mended: list[str]) -> list[tuple[Array, NDArray[np.int64]]]:
    """Its connected pieces; one that is turned inward is a hollow of the smallest one round it."""
    import trimesh  # slow to import, and seldom needed

    pieces = list(mesh.split(only_watertight=False))
    solid = [p for p in pieces if p.volume > 0]
    hollow = [p for p in pieces if p.volume < 0]
    alone = []
    inside: dict[int, list[trimesh.Trimesh]] = {k: [p] for k, p in enumerate(solid)}
    for h in hollow:
        round_it = [
            k for k, p in enumerate(solid) if (p.bounds[0] <= h.bounds[0]).all() and (p.bounds[1] >= h.bounds[1]).all()
        ]
        if round_it:
            inside[min(round_it, key=lambda k: solid[k].volume)].append(h)
        else:
            h.invert()
            alone.append(h)
    if alone:
        mended.append("turned right side out")
    out = []
    for group in [*inside.values(), *([p] for p in alone)]:
        whole: Any = trimesh.util.concatenate(group) if len(group) > 1 else group[0]
        if whole.volume <= 0:
            raise ValueError(f"{name} has no volume")
        out.append((np.asarray(whole.vertices, dtype=np.float64), np.asarray(whole.faces, dtype=np.int64)))
    if not out:
        raise ValueError(f"{name} has no volume")
    return out
