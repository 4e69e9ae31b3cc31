"""Motion in a plane, reckoned with three numbers a link, against the same in space with six."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.context import CONTEXT
from tests.mechanisms import crossed_ring, four_bar, gear_train, planetary
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.document import Document
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.equations.newton import rates
from uhrwerk.core.equations.plane import Plane, plane
from uhrwerk.core.motion.cycle import frames
from uhrwerk.core.motion.trajectory import track
from uhrwerk.demo.foil_tucker import foil_tucker
from uhrwerk.demo.folder import folder
from uhrwerk.demo.guard_lid import guard_lid
from uhrwerk.demo.main_drive import main_drive
from uhrwerk.demo.pusher import pusher

MECHANISMS: dict[str, Callable[[], Document]] = {
    "four-bar": lambda: four_bar(0.03, 0.09, 0.06, 0.08),
    "crossed four-bar": lambda: four_bar(0.03, 0.09, 0.06, 0.08, crossed=True, start="200 deg", speed="-400 rpm"),
    "gears": lambda: gear_train(frames=12),
    "planets": lambda: planetary(24, 18, 3, "ring"),
    "ring": lambda: crossed_ring(6),
    "foil tucker": foil_tucker,
    "main drive": main_drive,
    "pusher": pusher,
    "folder": folder,
}


@pytest.mark.parametrize("name", MECHANISMS)
def test_in_the_plane_as_in_space(name: str) -> None:
    document = MECHANISMS[name]()
    m = compile(document, CONTEXT)
    rows, start = m.system(), m.scaled(solve(m))
    flat = plane(rows, start)
    assert isinstance(flat, Plane)
    assert len(flat) < 0.6 * len(rows)
    times = np.linspace(0, 0.3, 40)
    found = {}
    for system in (rows, flat):
        followed, lost = track(system, start, 0.3)
        assert lost is None
        found[system is flat] = frames(system, followed, times)
    for k, what in enumerate(("pose", "velocity", "acceleration")):
        one, other = found[True][k], found[False][k]
        if what == "pose":
            off = poses.between(one, other)
            assert np.abs(off).max() < 2e-9
        else:
            assert np.abs(one - other).max() < 1e-10 * max(np.abs(found[False][n]).max() for n in (1, 2))
    residual, _ = rows.value(found[True][0], times)
    assert np.abs(residual).max() < 1e-9  # all rows hold, those that were left out too


@pytest.mark.parametrize("name", ["planets", "folder"])
@pytest.mark.parametrize("below", [False, True])
def test_gears_and_cams_are_written_out_alike(name: str, below: bool) -> None:
    """Residuals, Jacobians and second derivatives at poses off the solution, seen along the normal from either side."""
    m = compile(MECHANISMS[name](), CONTEXT)
    rows, start = m.system(), m.scaled(solve(m))
    flat = plane(rows, start)
    assert flat is not None
    if below:
        kept = [k for k, row in enumerate(rows.rows) if any(row is r for r in flat.rows.rows)]
        flat = Plane(rows, start, flat.axes[[1, 0, 2]] * np.array([[1.0], [1], [-1]]), kept)
    assert not flat.others
    random, here = np.random.default_rng(1), flat.lowered(start)
    pose = here + random.normal(size=(5, *here.shape)) * 0.05
    motion, times = random.normal(size=pose.shape), random.random(5)
    pose[:, 0], motion[:, 0] = here[0], 0.0
    (residual, jacobian), (wide, wider) = flat.value(pose, times), flat.rows.value(flat.lifted(pose), times)
    np.testing.assert_allclose(residual, wide, atol=1e-12)
    on = np.concatenate([wider[..., :3] @ flat.axes[:2].T, wider[..., 3:] @ flat.axes[2:].T], axis=-1)
    np.testing.assert_allclose(jacobian, on, atol=1e-12)
    second = flat.rows.second(flat.lifted(pose), flat.twist(motion))
    np.testing.assert_allclose(flat.second(pose, motion), second, atol=1e-11 * np.abs(second).max())


@given(
    turn=st.tuples(*[st.floats(-3, 3)] * 3),
    shift=st.tuples(*[st.floats(-2, 2)] * 3),
    start=st.floats(-180, 180),
)
@settings(max_examples=40, deadline=None)
def test_the_plane_may_lie_anyhow(turn: tuple[float, ...], shift: tuple[float, ...], start: float) -> None:
    """The whole mechanism moved rigidly: its velocities and accelerations move with it."""
    m = compile(four_bar(0.03, 0.09, 0.06, 0.08, start=f"{start} deg"), CONTEXT)
    rows, pose = m.system(), m.scaled(solve(m))
    turned = np.concatenate([shift, poses.turned(np.array(turn))])
    moved = poses.compose(turned, pose)
    flat = plane(rows, moved)
    assert flat is not None
    here = flat.lowered(moved)[None]
    np.testing.assert_allclose(poses.between(flat.lifted(here)[0], moved), 0, atol=1e-12)
    for ours, theirs in zip(rates(flat, here, np.zeros(1)), rates(rows, pose[None], np.zeros(1)), strict=True):
        held = np.concatenate(
            [poses.rotate(turned[3:], theirs[..., :3]), poses.rotate(turned[3:], theirs[..., 3:])], -1
        )
        np.testing.assert_allclose(flat.twist(ours), held, atol=1e-8)


def test_what_leaves_the_plane_is_not_taken_for_planar() -> None:
    lid = compile(guard_lid(), CONTEXT)
    start = lid.scaled(solve(lid))
    assert plane(lid.system(), start) is not None  # it folds about parallel axes
    tilted = start.copy()
    tilted[1] = poses.compose(np.concatenate([np.zeros(3), poses.turned(np.array([0.01, 0.02, 0.03]))]), start[1])
    assert plane(lid.system(), tilted) is None
