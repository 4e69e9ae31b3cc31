"""What must hold for any mechanism: another frame, mirrored input, other display units, documents read back."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.context import CONTEXT
from tests.mechanisms import crossed_ring, four_bar, mm, planetary
from uhrwerk import Draft
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.document import Document, write
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.motion import coordinates, cycle
from uhrwerk.core.upgrade import read


def relative_angles(document: Document, base: str) -> dict[str, np.ndarray]:
    """Turn of every part against `base`, (frames, 3, 3)."""
    m = compile(document, CONTEXT)
    motion = cycle(m, solve(m), 1.0, 24)
    at = {p: m.part_pose(p, motion.pose) for p in m.document.placed}
    return {p: poses.matrix(poses.compose(poses.inverse(at[base]), at[p])[..., 3:]) for p in at}


@settings(max_examples=8, deadline=None)
@given(st.sampled_from(["crank", "coupler", "rocker"]), st.floats(0.06, 0.1))
def test_another_frame_changes_no_relative_motion(frame: str, coupler: float) -> None:
    document = four_bar(0.03, coupler, 0.06, 0.08)
    other = Draft("x", document)
    other.set("frame", frame)
    one, two = relative_angles(document, "ground"), relative_angles(other.document, "ground")
    assert compile(other.document, CONTEXT).links[0].parts == (frame,)
    for part, turned in one.items():
        np.testing.assert_allclose(two[part], turned, atol=1e-8)


@settings(max_examples=8, deadline=None)
@given(st.floats(0.065, 0.1), st.floats(0.05, 0.075), st.floats(10.0, 60.0))
def test_mirrored_input_gives_mirrored_output(b: float, c: float, start: float) -> None:
    """A four-bar behind its ground line and driven the other way: opposite angles at every moment."""
    if not b + c - 0.004 >= 0.03 + 0.08:
        return
    one = four_bar(0.03, b, c, 0.08, start=f"{start!r} deg", frames=24)
    two = four_bar(0.03, b, c, 0.08, start=f"-{start!r} deg", speed="-60 rpm", crossed=True, frames=24)
    found = []
    for document in (one, two):
        m = compile(document, CONTEXT)
        found.append(coordinates(m, cycle(m, solve(m), 1.0, 24)))
    for joint in one.joints:
        sums = found[0][joint].value + found[1][joint].value
        np.testing.assert_allclose(np.exp(1j * sums), 1, atol=1e-8)


@settings(max_examples=8, deadline=None)
@given(st.floats(-0.3, 0.3), st.floats(-0.3, 0.3), st.lists(st.floats(-3, 3), min_size=3, max_size=3))
def test_moving_the_whole_ring_changes_nothing_in_it(x: float, y: float, turn: list[float]) -> None:
    document = crossed_ring(6, frames=12)
    m = compile(document, CONTEXT)
    before = solve(m)
    whole = np.concatenate([[x, y, 0.1], poses.turned(np.array(turn))])
    moved = Draft("x", document)
    for part in document.placed:
        at = poses.compose(whole, m.starts[part])
        angles = Rotation.from_quat(np.roll(at[3:], -1)).as_euler("xyz")
        start = {k: mm(v) for k, v in zip("xyz", at[:3], strict=True)}
        moved.set(
            f"placed.{part}.start",
            start | {f"turn_{k}": f"{float(v)!r} rad" for k, v in zip("xyz", angles, strict=True)},
        )
    n = compile(moved.document, CONTEXT)
    after = solve(n)
    for part in m.document.placed:
        want = poses.compose(whole, m.part_pose(part, before))
        np.testing.assert_allclose(poses.between(n.part_pose(part, after), want), 0, atol=2e-8)


@pytest.mark.parametrize(
    "document", [crossed_ring(6), planetary(24, 12, 3, "ring"), four_bar(0.03, 0.09, 0.06, 0.08)], ids=lambda d: d.name
)
def test_a_document_written_and_read_is_equal_and_solves_alike(document: Document) -> None:
    again = read(write(document))
    assert again == document
    np.testing.assert_array_equal(solve(compile(again, CONTEXT)), solve(compile(document, CONTEXT)))


def test_display_units_change_no_pose() -> None:
    draft = Draft("x", crossed_ring(6))
    draft.set("units.length", "in")
    np.testing.assert_allclose(
        solve(compile(draft.document, CONTEXT)), solve(compile(crossed_ring(6), CONTEXT)), atol=1e-12
    )
