"""Drawings of mechanisms: every item has its number where it is seen, no texts overlap, files read back, in time."""

from __future__ import annotations

import io
import time

import ezdxf
import manifold3d
import numpy as np
import pytest
import trimesh
from pypdf import PdfReader
from shapely import box

from uhrwerk.core.drafting.assembly_sheet import BALLOON
from uhrwerk.core.drafting.exploded import taken_apart
from uhrwerk.core.drafting.export import assembly_drawing, sheet_file
from uhrwerk.core.drafting.part_sheet import CORNER
from uhrwerk.core.drafting.sheet import Linear, Sheet
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.exchange.placing import standing
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.demo import MODULES, shipped

pytestmark = pytest.mark.xdist_group("drawings of the whole")  # each module is evaluated and drawn once


@pytest.fixture(scope="module", params=MODULES)
def drawn(request: pytest.FixtureRequest, evaluator: Evaluator) -> tuple[Evaluation, Sheet, float]:
    e = evaluator.evaluate(shipped(request.param))
    began = time.monotonic()
    sheet = assembly_drawing(e, revision="3", date="2026-12-02")
    return e, sheet, time.monotonic() - began


def balloons(sheet: Sheet) -> dict[int, tuple[float, float]]:
    """Numbers in circles, with where their leaders end."""
    circles = [s.curve for s in sheet.strokes if s.curve[0] == "arc" and s.layer == "thin" and s.curve[3] == BALLOON]
    leaders = [s.curve for s in sheet.strokes if s.curve[0] == "line" and s.layer == "thin"]
    out = {}
    for _, x, y, *_ in circles:
        (text,) = [t.text for t in sheet.labels if abs(t.x - x) < 1e-6 and abs(t.y + 1.6 - y) < 1e-6]
        (end,) = [c[3:5] for c in leaders if abs(np.hypot(c[1] - x, c[2] - y) - BALLOON) < 1e-6]
        out[int(text)] = end
    return out


def test_every_item_is_numbered_once_and_stands_in_the_list(drawn: tuple[Evaluation, Sheet, float]) -> None:
    e, sheet, _ = drawn
    designs = dict.fromkeys((p.part, p.mirrored) for p in e.document.placed.values())
    texts = [t.text for t in sheet.labels]
    numbers = balloons(sheet)
    assert set(numbers) <= set(range(1, len(designs) + 1))
    assert len(numbers) >= len(designs) - 1  # what is seen from nowhere has no leader
    for part, _ in designs:
        assert any(t.startswith(e.document.parts[part].name[:20]) for t in texts)


def test_no_two_texts_overlap_and_no_leaders_cross(drawn: tuple[Evaluation, Sheet, float]) -> None:
    _, sheet, _ = drawn
    boxes = [(t.text, box(*t.box())) for t in sheet.texts()]
    for k, (text, one) in enumerate(boxes):
        for other, two in boxes[k + 1 :]:
            assert one.intersection(two).area < 1e-6, (text, other)
    width, height = sheet.size
    assert all(box(20, 10, width - 10, height - 10).contains(b) for _, b in boxes)


def test_it_is_drawn_in_time(drawn: tuple[Evaluation, Sheet, float]) -> None:
    assert drawn[2] < 30  # 2 to 3 s alone; the limit that is aimed at, 10 s, holds beside a second test run too


def test_a_leader_ends_on_the_item_that_it_names(evaluator: Evaluator) -> None:
    """A ray of trimesh through the end of each leader in the front view meets that item first."""
    e = evaluator.evaluate(shipped("foil_tucker"))
    sheet = assembly_drawing(e)
    poses = e.part_poses(e.moved.motion.pose[0])
    meshes = {}
    for i, solid in e.solids.items():
        turn = trimesh.transformations.quaternion_matrix(poses[i][3:])
        turn[:3, 3] = poses[i][:3]
        for name, body in solid.bodies.items():
            meshes[i, name] = trimesh.Trimesh(trimesh.transform_points(body.vertices, turn), body.triangles)
    bounds = np.array([m.bounds for m in meshes.values()])
    low = bounds[:, 0].min(axis=0)
    widths = [d for d in sheet.dimensions if isinstance(d, Linear)]
    across = next(d for d in widths if not d.upright and d.value == pytest.approx(226))
    x0, y0 = across.a
    order = list(dict.fromkeys(p.part for p in e.document.placed.values()))
    looked = 0
    for number, (x, y) in balloons(sheet).items():
        if not x0 <= x <= across.b[0] or not y0 <= y <= y0 + 150 * sheet.scale:
            continue  # in another view
        at = low[:2] + np.array([x - x0, y - y0]) / sheet.scale / 1e3
        hits = {}
        for (i, name), mesh in meshes.items():
            points, *_ = mesh.ray.intersects_location([[*at, 1.0]], [[0, 0, -1]])
            if len(points):
                hits[i, name] = points[:, 2].max()
        top = max(hits, key=lambda k: hits[k])
        assert order.index(e.document.placed[top[0]].part) + 1 == number
        looked += 1
    assert looked >= 5


@pytest.mark.parametrize("projection", [True, False])
def test_files_are_read_back_by_other_libraries(evaluator: Evaluator, projection: bool) -> None:
    sheet = assembly_drawing(evaluator.evaluate(shipped("pusher")), first_angle=projection)
    doc = ezdxf.read(io.StringIO(sheet_file("a.dxf", sheet).decode()))
    auditor = doc.audit()
    assert not auditor.errors
    assert not auditor.fixes
    measured = sorted(
        d.get_measurement() / sheet.scale for d in doc.modelspace().query("DIMENSION")
    )  # of paper; shown by its factor
    assert measured == pytest.approx(sorted(d.value for d in sheet.dimensions), abs=1e-6)
    reader = PdfReader(io.BytesIO(sheet_file("a.pdf", sheet)))
    assert len(reader.pages) == 1
    assert "Slotted lever" in reader.pages[0].extract_text()


def test_the_view_from_above_lies_below_in_first_angle_and_above_in_third(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(shipped("pusher"))

    def heights(first: bool) -> list[float]:
        sheet = assembly_drawing(e, first_angle=first)
        curves = [np.array(s.curve[1]) for s in sheet.strokes if s.layer == "visible" and s.curve[0] == "curve"]
        wide = next(d for d in sheet.dimensions if isinstance(d, Linear) and not d.upright)
        beyond = [
            c[:, 1].mean() - wide.at
            for c in curves
            if c[:, 0].min() >= wide.a[0] - 1 and c[:, 0].max() <= wide.b[0] + 1
        ]
        return [float(np.mean(np.array(beyond) < 0)), float(np.mean(np.array(beyond) > 0))]

    assert heights(True)[0] > 0.1  # some of it lies below the front view's own size
    assert heights(False)[0] == 0.0


def test_a_group_alone_and_what_is_not_there(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(shipped("guard_lid"))
    with pytest.raises(ValidationFailed, match="no group"):
        assembly_drawing(e, "nobody")


@pytest.mark.parametrize("module", ["foil_tucker", "folder", "gripper_ring", "guard_lid"])
def test_taken_apart_no_two_parts_overlap_and_all_move_along_their_joints(evaluator: Evaluator, module: str) -> None:
    """Boxes along the direction in which a part was moved are clear of all that was there; triangles share no space (manifold3d)."""
    e = evaluator.evaluate(shipped(module))
    stands = standing(e)
    apart = taken_apart(e, stands, np.array(CORNER[1]))
    assert set(apart.offsets) == {one.id for one in stands}
    solids = {}
    for one in stands:
        meshes = [manifold3d.Manifold(manifold3d.Mesh64(np.ascontiguousarray((v + apart.offsets[one.id]) * 1e3), np.ascontiguousarray(t, dtype=np.uint64))) for _, v, t in one.bodies()]  # fmt: skip
        solids[one.id] = sum(meshes[1:], meshes[0])
    names = list(solids)
    for k, a in enumerate(names):
        for b in names[k + 1 :]:
            assert (solids[a] ^ solids[b]).volume() < 1e-3, (a, b)
    sheet = assembly_drawing(e, exploded=True)
    boxes = [(t.text, box(*t.box())) for t in sheet.texts()]
    assert all(one.intersection(two).area < 1e-6 for k, (_, one) in enumerate(boxes) for _, two in boxes[k + 1 :])
    if module == "foil_tucker":
        assert len(balloons(sheet)) == 9
