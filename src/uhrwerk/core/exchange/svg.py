"""SVG: the outline of a part at its true size, in millimetres (SVG 1.1, paths with arcs)."""

from __future__ import annotations

import cmath
import math

from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.exchange.profile import Loop, profile
from uhrwerk.core.stages.evaluation import Evaluation

#: mm of paper round the outline
MARGIN = 2.0


def _written(e: Evaluation, chosen: Chosen) -> bytes:
    loops = profile(e, chosen)
    every = [p for loop in loops for p in _reach(loop)]
    low, high = (tuple(f(p[k] for p in every) for k in (0, 1)) for f in (min, max))
    x, y = low[0] - MARGIN, -high[1] - MARGIN
    wide, tall = high[0] - low[0] + 2 * MARGIN, high[1] - low[1] + 2 * MARGIN
    lines = " ".join(_path(loop) for loop in loops)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.6f}mm" height="{tall:.6f}mm" viewBox="{x:.6f} {y:.6f} {wide:.6f} {tall:.6f}">'
        f'<path d="{lines}" fill="none" stroke="black" stroke-width="0.1"/></svg>'
    ).encode()


def _reach(loop: Loop) -> list[tuple[float, float]]:
    """Points, mm, that its box encloses; of an arc, some of them, the rest lies within the margin."""
    if loop.circle is not None:
        (x, y), r = loop.circle
        return [(1e3 * (x - r), 1e3 * (y - r)), (1e3 * (x + r), 1e3 * (y + r))]
    out = []
    for (x, y, b), (u, v, _) in zip(loop.corners, [*loop.corners[1:], loop.corners[0]], strict=True):
        out.append((1e3 * x, 1e3 * y))
        if b:
            p, q, half = complex(x, y), complex(u, v), 2 * math.atan(b)
            centre = (p + q) / 2 + 1j * (q - p) / 2 / math.tan(half)
            turned = [centre + (p - centre) * cmath.exp(1j * half * k / 16) for k in range(1, 32)]
            out += [(1e3 * z.real, 1e3 * z.imag) for z in turned]
    return out


def _path(loop: Loop) -> str:
    """As path data, mm, y upward."""
    if loop.circle is not None:
        (x, y), r = (1e3 * loop.circle[0][0], -1e3 * loop.circle[0][1]), 1e3 * loop.circle[1]
        return (
            f"M{x - r:.6f} {y:.6f}A{r:.6f} {r:.6f} 0 1 0 {x + r:.6f} {y:.6f}A{r:.6f} {r:.6f} 0 1 0 {x - r:.6f} {y:.6f}Z"
        )
    x, y, _ = loop.corners[0]
    out = [f"M{1e3 * x:.6f} {-1e3 * y:.6f}"]
    for (x, y, b), (u, v, _) in zip(loop.corners, [*loop.corners[1:], loop.corners[0]], strict=True):
        end = f"{1e3 * u:.6f} {-1e3 * v:.6f}"
        if not b:
            out.append(f"L{end}")
            continue
        r = 1e3 * math.hypot(u - x, v - y) * (1 + b * b) / (4 * abs(b))
        out.append(f"A{r:.6f} {r:.6f} 0 {int(abs(b) > 1)} {int(b < 0)} {end}")
    return "".join(out) + "Z"


FORMAT = Format(".svg", "Outline of a part, to look at", "image/svg+xml", write=_written, alone=True)
