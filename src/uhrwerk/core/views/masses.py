"""Mass properties of chosen parts, as the page shows them and draws them on the stage."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from typing_extensions import TypedDict

from uhrwerk.core.assembly.mass_properties import MassProperties
from uhrwerk.core.balance import selection
from uhrwerk.core.evaluation.values import where
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.quantity import display, in_unit
from uhrwerk.core.stages.evaluation import Evaluation


class MassesShown(TypedDict):
    """In a frame at a moment, in words; and in the world at every frame, m: the centre, and three arms (F, 3, 3) along the principal
    axes, as long as the radius of gyration about each."""

    rows: list[tuple[str, str]]
    time: float
    centre: list[list[float]]
    arms: list[list[list[float]]]


def masses(e: Evaluation, parts: Sequence[str], frame: str = "", time: float = 0.0) -> MassesShown:
    """Of placed parts; `frame` is a placed part or a datum of one (part.datum), the world's where it is left out. ValidationFailed where a
    part is not known or cannot be made."""
    if not parts:
        raise ValidationFailed(("parts", "choose at least one part"))
    for p in parts:
        if p not in e.document.placed:
            raise ValidationFailed(("parts", f"there is no placed part {p!r}"))
        if p not in e.solids or e.motion is None:
            raise ValidationFailed(
                ("parts", f"{e.document.placed[p].name} cannot be made, or the mechanism cannot be assembled")
            )
    world = selection(e, parts)
    k = int(np.abs(world.times - time).argmin())
    from_frame = world.in_frame(where(e, frame).pose) if frame else world
    arms = [(x.axes * x.gyration).T for x in (world.at(i) for i in range(len(world.times)))]
    return {
        "rows": [*_rows(e, from_frame.at(k)), *_over(e, from_frame.centre)], "time": float(world.times[k]),
        "centre": world.centre.tolist(), "arms": np.array(arms).tolist(),
    }  # fmt: skip


def _rows(e: Evaluation, x: MassProperties) -> list[tuple[str, str]]:
    shown, unit = e.document.display, e.document.unit_of("couple")

    def inertia(value: float) -> str:
        return display(value, "couple", unit)

    out = [("Mass", shown(x.mass, "mass"))]
    out += [(f"Centre {a}", shown(float(c), "length")) for a, c in zip("xyz", x.centre, strict=True)]
    out += [(f"Inertia {a}{a}", inertia(float(x.inertia[k, k]))) for k, a in enumerate("xyz")]
    out += [(f"Inertia {'xyz'[i]}{'xyz'[j]}", inertia(float(x.inertia[i, j]))) for i, j in ((0, 1), (1, 2), (0, 2))]
    for k in range(3):
        axis = ", ".join(f"{v:+.3f}" for v in x.axes[:, k])
        out.append((f"Principal {k + 1}", f"{inertia(float(x.principal[k]))} about ({axis})"))
    return out + [(f"Radius of gyration {k + 1}", shown(float(x.gyration[k]), "length")) for k in range(3)]


def _over(e: Evaluation, centre: np.ndarray) -> list[tuple[str, str]]:
    """Where the centre goes over the cycle, at the frames."""
    unit = e.document.unit_of("length")
    low, high = centre.min(axis=0), centre.max(axis=0)
    rows = [
        f"{in_unit(a, 'length', unit):.2f} … {in_unit(b, 'length', unit):.2f} {unit}"
        for a, b in zip(low, high, strict=True)
    ]
    moves = np.ptp(centre, axis=0).max() > 1e-9
    return [(f"Centre {a} over the cycle", words) for a, words in zip("xyz", rows, strict=True)] if moves else []
