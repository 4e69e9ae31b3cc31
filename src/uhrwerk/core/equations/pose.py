"""Poses as (..., 7) arrays: position (m) and unit quaternion (w, x, y, z). Everything works on stacks.

Quaternion algebra after Kuipers, Quaternions and Rotation Sequences (1999), ch. 5. From memory.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

IDENTITY = np.array([0.0, 0, 0, 1, 0, 0, 0])


def cross(a: Array, b: Array) -> Array:
    """Cross product over the last axis; several times faster than numpy's on small stacks."""
    out = np.empty(np.broadcast(a, b).shape)
    x, y, z = a[..., 0], a[..., 1], a[..., 2]
    u, v, w = b[..., 0], b[..., 1], b[..., 2]
    out[..., 0] = y * w - z * v
    out[..., 1] = z * u - x * w
    out[..., 2] = x * v - y * u
    return out


def multiply(p: Array, q: Array) -> Array:
    """Quaternion product, (..., 4)."""
    w = p[..., :1] * q[..., :1] - (p[..., 1:] * q[..., 1:]).sum(-1, keepdims=True)
    v = p[..., :1] * q[..., 1:] + q[..., :1] * p[..., 1:] + cross(p[..., 1:], q[..., 1:])
    return np.concatenate([w, v], axis=-1)


def rotate(q: Array, v: Array) -> Array:
    """Vectors (..., 3) turned by unit quaternions (..., 4)."""
    t = 2 * cross(q[..., 1:], v)
    return v + q[..., :1] * t + cross(q[..., 1:], t)


def conjugate(q: Array) -> Array:
    return np.asarray(q * np.array([1.0, -1, -1, -1]))


def turned(vector: Array) -> Array:
    """The quaternion (..., 4) of a rotation vector (..., 3) in rad."""
    half = np.linalg.norm(vector, axis=-1, keepdims=True) / 2
    return np.concatenate([np.cos(half), vector * np.sinc(half / np.pi) / 2], axis=-1)


def rotation_vector(q: Array) -> Array:
    """The shortest rotation vector (..., 3) of a unit quaternion."""
    q = np.where(q[..., :1] < 0, -q, q)
    size = np.linalg.norm(q[..., 1:], axis=-1, keepdims=True)
    angle = 2 * np.arctan2(size, q[..., :1])
    return q[..., 1:] * np.where(size > 1e-12, angle / np.maximum(size, 1e-300), 2.0)


def compose(p: Array, q: Array) -> Array:
    """The pose of q's frame where q is given in p's frame."""
    return np.concatenate([p[..., :3] + rotate(p[..., 3:], q[..., :3]), multiply(p[..., 3:], q[..., 3:])], axis=-1)


def inverse(p: Array) -> Array:
    back = conjugate(p[..., 3:])
    return np.concatenate([-rotate(back, p[..., :3]), back], axis=-1)


def place(p: Array, points: Array) -> Array:
    """Points (..., 3) of a posed frame in the world."""
    return p[..., :3] + rotate(p[..., 3:], points)


def matrix(q: Array) -> Array:
    """Rotation matrices (..., 3, 3) of unit quaternions (..., 4)."""
    w, x, y, z = (q[..., i] for i in range(4))
    rows = [
        1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y),
        2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x),
        2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y),
    ]  # fmt: skip
    return np.stack(rows, axis=-1).reshape(*q.shape[:-1], 3, 3)


def from_axes(origin: Array, x: Array, z: Array) -> Array:
    """The pose of a frame with the given origin, x and z directions (unit, square to one another)."""
    m = np.stack([x, cross(z, x), z], axis=-1)
    four = np.array([1 + m[0, 0] + m[1, 1] + m[2, 2], 1 + m[0, 0] - m[1, 1] - m[2, 2],
                     1 - m[0, 0] + m[1, 1] - m[2, 2], 1 - m[0, 0] - m[1, 1] + m[2, 2]])  # fmt: skip
    k = int(np.argmax(four))
    s = 2 * np.sqrt(four[k])
    d = np.array([m[2, 1] - m[1, 2], m[0, 2] - m[2, 0], m[1, 0] - m[0, 1]]) / s
    e = np.array([m[0, 1] + m[1, 0], m[0, 2] + m[2, 0], m[1, 2] + m[2, 1]]) / s
    q = {0: [s / 4, *d], 1: [d[0], s / 4, e[0], e[1]], 2: [d[1], e[0], s / 4, e[2]], 3: [d[2], e[1], e[2], s / 4]}[k]
    return np.concatenate([origin, q])


def moved(pose: Array, step: Array) -> Array:
    """Poses (..., 7) after a small motion (..., 6): translation, then rotation vector in the world; renormalised."""
    q = multiply(turned(step[..., 3:]), pose[..., 3:])
    return np.concatenate([pose[..., :3] + step[..., :3], q / np.linalg.norm(q, axis=-1, keepdims=True)], axis=-1)


def between(p: Array, q: Array) -> Array:
    """The motion (..., 6) that takes pose p to pose q, in the sense of `moved`."""
    return np.concatenate(
        [q[..., :3] - p[..., :3], rotation_vector(multiply(q[..., 3:], conjugate(p[..., 3:])))], axis=-1
    )


def carried(far: Array, v: Array, a: Array) -> tuple[Array, Array]:
    """Rates of a motion (..., 6) whose end has the twist v and its derivative a: the rotation vector's own rates follow
    by the inverse of the left Jacobian of SO(3) and its derivative (Barfoot, State Estimation for Robotics, 7.1)."""
    r, w, alpha = far[..., 3:], v[..., 3:], a[..., 3:]
    angle = np.linalg.norm(r, axis=-1, keepdims=True)
    small, t = angle < 0.2, np.where(angle < 0.2, 1.0, angle)
    sq, cot = angle**2, 1 / np.tan(t / 2)
    c = np.where(small, 1 / 12 + sq / 720 + sq**2 / 30240 + sq**3 / 1209600, (1 - t / 2 * cot) / t**2)
    slope = np.where(  # dc / d(angle) over the angle
        small,
        1 / 360 + sq / 7560 + sq**2 / 201600,
        (t / 4 / np.sin(t / 2) ** 2 - cot / 2) / t**3 - 2 * c / t**2,
    )
    rw = cross(r, w)
    rate = w - rw / 2 + c * cross(r, rw)
    grown = slope * np.einsum("...i,...i->...", r, rate)[..., None]
    second = alpha - cross(r, alpha) / 2 + c * cross(r, cross(r, alpha))
    second += -cross(rate, w) / 2 + c * (cross(rate, rw) + cross(r, cross(rate, w))) + grown * cross(r, rw)
    return np.concatenate([v[..., :3], rate], axis=-1), np.concatenate([a[..., :3], second], axis=-1)
