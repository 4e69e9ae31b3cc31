"""Writes docs/file-format.md: what a document holds, and every kind with its fields, from the code.

python docs/file_format.py
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from uhrwerk.core.curves import CURVES
from uhrwerk.core.document.document import FORMAT
from uhrwerk.core.document.driver import DRIVERS
from uhrwerk.core.document.repeat import REPEATS
from uhrwerk.core.document.requirement import REQUIREMENTS
from uhrwerk.core.elements import ELEMENTS
from uhrwerk.core.elements.cams.shape import SHAPES as CAM_SHAPES
from uhrwerk.core.field import Model
from uhrwerk.core.joints import JOINTS, PAIRS, RELATIONS
from uhrwerk.core.laws import LAWS
from uhrwerk.core.outlines import OUTLINES
from uhrwerk.core.steps import STEPS

HEAD = f"""# File format, version {FORMAT}

Made from the code by `docs/file_format.py`; a test holds it to that.

A mechanism is one JSON file, UTF-8; its schema is [document-schema.json](document-schema.json) (`uhrwerk schema` prints it). Unknown fields are refused with their path. Files of earlier versions are read and brought up to this one: of version 1 so that nothing moves ([decision 21](decisions/0021-one-origin.md)), of version 2 by the new names of some kinds and fields. Any other `format` is refused. It keeps well under version control: one value a line, stable order.

Every number is a **formula**: text with units (or a plain number, which takes the mechanism's unit); a fraction of a unit stands in brackets, `(1/8) in`. The schema marks such fields with `x-dimension`.

| field | holds |
|---|---|
| `format` | {FORMAT} |
| `name`, `note` | words |
| `units` | `length` (mm, cm, m, in) and `mass` (g, kg, oz, lb): shown, and taken by bare numbers |
| `parameters` | name → `formula`, `note`, `measured` where it was taken from where parts stood: which measure (`what`), between which datums (`a`, `b`) |
| `materials` | id → `name`, `density`, and where known `modulus`, `strength`, `colour`, `source` |
| `parts` | id → `name`, `material`, `element` (see [elements](#elements)), `colour`, `measured_mass` and `centre_x`, `centre_y`, `centre_z` where the part was weighed, `steps`: id → a [build step](#build-steps), carried out in their order. Ids of steps name faces, so that joints may hold on to them |
| `placed` | id → `name`, `part`, `start`: where the part is before the joints act: x, y, z and turns about the fixed axes x, then y, then z; `mirrored`: used as its image behind its yz plane; `left_out` of motion and checks |
| `frame` | the placed part that stands still |
| `groups` | id → `name`, `placed` |
| `joints` | id → a [joint](#joints) of `a` and `b` (each a `placed` part and its `datum`; `x`, `y`, `z` where it takes hold beside the datum, along its axes), `offset` along the axis of a, `flip` (b turned over about the x of its datum; travel and angles count along and about the axis of a all the same), limits `turn_from`, `turn_to`, `slide_from`, `slide_to` (empty: open) |
| `relations` | id → a [relation](#relations) of `a` and `b`, `side` (same or opposite; tangent: outside or inside), limits of the joint that relations make together |
| `pairs` | id → a [pair](#pairs) of `a` and `b`: placed parts, or datums of them |
| `repeats` | id → a [repeat](#repeats) of `placed`: the originals. Copy k of `link` is `link__k`, and may be joined, driven and named in requirements; where a part is repeated by several, copies of the second are `link__r2_k` |
| `drivers` | id → a [drive](#drives) of a `joint` |
| `cycle` | `duration` of one master cycle, `frames` that are drawn and listed (no verdict depends on them) |
| `requirements` | id → a [requirement](#requirements) |
| `curves` | id → a [curve](#curves) that is followed over the cycle |
| `drawings` | id → `name`, `part` (a placed part; none for the `group` at the start of the cycle, `whole` if not stated, `exploded` or not), `projection`, `section`, `hole_table`, `note`, and what differs from the sheet that is drawn by itself: `sizes`, id → which size (`view`, `kind`, `place` among as many, from the smallest on, and the `value` that it had), `hidden`, moved `right` and `up` on paper, text `after` the value; `own_sizes`, id → `view`, `kind` (across or upright), the datums `a` and `b` of the part, moved and with text likewise |

Ids are lower-case letters, digits and underscores, a letter first. Datums and bodies of every element: [elements.md](elements.md), made from the code.

Poses of the answers: metres, radians, seconds, kilograms. A pose is position and unit quaternion (w, x, y, z).

A solid from a file stands in the document by its hash only: `uhrwerk export FILE --to mechanism.zip` writes the mechanism with the solids that it took from files ([decision 13](decisions/0013-files.md)).
"""

#: fields that all of a collection have
COMMON = {"kind", "name", "a", "b", "off", "note", "turn_from", "turn_to", "slide_from", "slide_to", "flip", "placed"}


def _table(title: str, kinds: Mapping[str, type[Model]], common: set[str]) -> list[str]:
    lines = ["", f"## {title}", "", "| kind | is | fields |", "|---|---|---|"]
    for kind, model in kinds.items():
        own = ", ".join(f"`{name}`" for name in model.model_fields if name not in common)
        lines.append(f"| `{kind}` | {getattr(model, 'title', '')} | {own} |")
    return lines


def text() -> str:
    out = [HEAD.rstrip()]
    for title, kinds in (
        ("Elements", ELEMENTS),
        ("Build steps", STEPS),
        ("Outlines", OUTLINES),
        ("Outlines of cams", CAM_SHAPES),
        ("Joints", JOINTS),
        ("Relations", RELATIONS),
        ("Pairs", PAIRS),
        ("Repeats", REPEATS),
        ("Drives", DRIVERS),
        ("Motion laws", LAWS),
        ("Requirements", REQUIREMENTS),
        ("Curves", CURVES),
    ):
        out += _table(title, kinds, COMMON | ({"joint"} if title == "Drives" else set()))
    return "\n".join([*out, ""])


if __name__ == "__main__":
    (Path(__file__).parent / "file-format.md").write_text(text(), encoding="utf-8")
