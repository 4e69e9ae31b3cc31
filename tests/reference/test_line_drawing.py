"""What a line drawing shows of solids, against rays that are shot at triangles one by one (Moller and Trumbore, Fast, minimum storage
ray/triangle intersection, Journal of Graphics Tools 2, 1997)."""

from __future__ import annotations

import numpy as np
import pytest

from uhrwerk import (
    Draft,
    Evaluator,
    FramePlate,
    LinkBar,
    Pin,
    RingGear,
    SlottedLever,
    SpurGear,
)
from uhrwerk.core.elements import Carrier, HingeLeaf, Pulley
from uhrwerk.core.elements.plain import Tube
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.line_drawing import VIEWS, Eye, Shown, picture
from uhrwerk.core.solids.solid import outlines

SOLIDS = {
    "plate": FramePlate(), "bar": LinkBar(), "pin": Pin(), "ring": RingGear(), "lever": SlottedLever(), "gear": SpurGear(),
    "carrier": Carrier(), "leaf": HingeLeaf(), "pulley": Pulley(), "tube": Tube(),
}  # fmt: skip
SIZE = (640.0, 480.0)


def hidden(points: Array, toward: Array, corners: Array, nearer: float) -> np.ndarray:
    """Which points (n, 3) have a triangle (m, 3, 3) between them and the eye, farther off than so much."""
    a, u, v = corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    h = np.cross(toward, v)
    det = (u * h).sum(axis=1)
    ok = np.abs(det) > 1e-16
    a, u, v, h, det = a[ok], u[ok], v[ok], h[ok], det[ok]
    out = np.zeros(len(points), dtype=bool)
    for k, p in enumerate(points):
        s = p - a
        x = (s * h).sum(axis=1) / det
        q = np.cross(s, u)
        y = q @ toward / det
        t = (v * q).sum(axis=1) / det
        out[k] = bool(((x > 0) & (y > 0) & (x + y < 1) & (t > nearer)).any())
    return out


@pytest.mark.parametrize("kind", SOLIDS)
def test_as_much_is_seen_as_rays_say(evaluator: Evaluator, kind: str) -> None:
    draft = Draft("One")
    part = draft.part("Part", "steel", SOLIDS[kind])
    solid = evaluator.solid_of(draft.document, part)[1]
    eye = VIEWS["corner"]
    shown = [Shown(name, b.vertices, b.triangles) for name, b in solid.bodies.items()]
    p = picture(shown, eye, *SIZE, fine=4)
    drawn = sum(
        float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum()) for lines in p.lines.values() for line in lines
    )
    toward = eye.axes[2]
    corners = np.concatenate([b.vertices[b.triangles] for b in solid.bodies.values()])
    size = float(np.ptp(corners.reshape(-1, 3), axis=0).max())
    rng, seen = np.random.default_rng(1), 0.0
    edges = np.concatenate([outlines(b.vertices, b.triangles, toward) for b in solid.bodies.values()])
    length = np.linalg.norm(np.diff(p.place(edges), axis=1)[:, 0], axis=1)
    # points spread over all edges by their length on paper
    count = 4000
    of = np.searchsorted(np.cumsum(length), (np.arange(count) + rng.random(count)) / count * length.sum())
    of = np.minimum(of, len(edges) - 1)
    points = edges[of, 0] + rng.random(count)[:, None] * (edges[of, 1] - edges[of, 0])
    seen = float(length.sum() * (~hidden(points, toward, corners, 2e-3 * size)).mean())
    assert drawn == pytest.approx(seen, rel=0.04), kind


def test_a_place_lies_where_its_edge_is_drawn(evaluator: Evaluator) -> None:
    """A pin from above: its rim is a circle of its radius round its axis, at the picture's scale."""
    draft = Draft("One")
    part = draft.part("Part", "steel", Pin(diameter="10 mm", length="30 mm"), x="3 mm")
    solid = evaluator.solid_of(draft.document, part)[1]
    for eye in (VIEWS["top"], Eye((0, 0, 1), (1, 2, 0))):
        p = picture([Shown(n, b.vertices, b.triangles) for n, b in solid.bodies.items()], eye, 200, 100)
        points = np.concatenate([line for lines in p.lines.values() for line in lines])
        middle = p.place(np.zeros((1, 3)))[0]
        radii = np.linalg.norm(points - middle, axis=1)
        assert radii.max() == pytest.approx(5e-3 * p.scale, abs=0.02)
        assert p.scale == pytest.approx(96 / 10e-3, rel=1e-3)
