"""Writes docs/elements.md from the code: what each element takes, which bodies it has and what it can be joined by.

python docs/elements.py
"""

from __future__ import annotations

from pathlib import Path

from uhrwerk.core import elements
from uhrwerk.core.document import dimension_of, numbers
from uhrwerk.core.outlines import OUTLINES
from uhrwerk.core.quantity import Scope
from uhrwerk.core.solids import Datum
from uhrwerk.core.steps import STEPS
from uhrwerk.core.steps.hole import PLACES
from uhrwerk.core.steps.repeat_steps import HOW

HEAD = """# Elements: fields, bodies, datums

Made from the code by `docs/elements.py`; a test holds it to that. Every field is a formula; the value is the default. Each
bore, post or pin in a map adds a datum and, where it stands on a face, a body under its own id. Datums are those of the
default sizes: a third hole, a finger, a head or a slot adds its own.

**Where a datum lies.** It has one origin and three axes, and is drawn, joined, measured, loaded and turned there. An element states
its own: behind each stands its origin in the part's frame, mm, the direction of its z, and how far a bore or pin reaches along
that. A face that a build step or a file made has its origin in the centroid of its outer boundary (holes in it do not move that), a
round one in the middle of its length, on its axis; z is the outward normal, or the axis along the part's z, or y, or x; x lies
along the part's z moved squarely onto it, or along its x. Of a round face `name`, `name_low` and `name_high` are the ends of its
axis; `step.middle` is the middle of a circle or grid of holes. A straight edge between two flat faces is named by both,
`block.end+block.side_2`: an axis through its middle, z along it as of a round face; a corner by the three faces that meet there,
`block.end+block.side_1+block.side_2`, with the part's own axes. Where the same faces meet several times, `:2`, `:3` number them
along that line. A part with more than 250 flat faces has no such datums, and neither has an element without build steps. Every part has its `origin` and the base planes `xy_plane`,
`xz_plane`, `yz_plane` too. Joints may take hold beside a datum: `x`, `y`, `z` from there, along its axes.
"""


STEPS_HEAD = """# Build steps

A part's `steps` work on its element in their order, or make a part alone where the element is `blank`. Every step has a `name`,
may be switched `off`, and carries a `note`. Faces are named by the step that made them and their role there: `end` and `start`
of what is drawn out, `side_1` and on in the order of the outline, `hole_1`, `recess_1`, `seat_1`, `sink_1`, `bottom_1` of holes;
those of an element `element.end`, `element.side_3`, `element.hole_1`. A face that was split is told apart by a number, `plate.end.2`.

| | kind | what it does | fields |
|---|---|---|---|"""


def _lies(d: Datum) -> str:
    """Where a datum lies in its part, and how far it reaches."""
    at = ", ".join(f"{round(float(v) * 1e3, 3) + 0.0:g}" for v in d.origin)
    z = ", ".join(f"{round(float(v), 3) + 0.0:g}" for v in d.z)
    named = {"1, 0, 0": "+x", "-1, 0, 0": "-x", "0, 1, 0": "+y", "0, -1, 0": "-y", "0, 0, 1": "+z", "0, 0, -1": "-z"}
    low, high = (round(v * 1e3, 3) + 0.0 for v in d.ends)
    reach = f", from {low:g} to {high:g} along it" if d.kind == "axis" and d.length else ""
    return f"at {at}, z {named.get(z, z)}{reach}"


def text() -> str:
    out = [HEAD]
    for kind, model in elements.ELEMENTS.items():
        made = model(**_shown(kind))
        n = numbers(made, Scope())
        out += [
            f"## {model.title} (`{kind}`)",
            "",
            (model.__doc__ or "").strip(),
            "",
            "| field | default | gives |",
            "|---|---|---|",
        ]
        for name, field in model.model_fields.items():
            if name == "kind":
                continue
            mark = dimension_of(field)
            value = getattr(made, name)
            gives = (
                mark.name
                if mark is not None
                else "a map of details"
                if isinstance(value, dict)
                else type(value).__name__
            )
            out.append(f"| `{name}` | {'' if isinstance(value, dict) else value} | {gives} |")
        bodies = ", ".join(f"`{b['name']}`" for b in model.solid(n)["bodies"])
        datums = "; ".join(f"`{i}` ({d.words}, {_lies(d)})" for i, d in model.datums(n).items())
        derived = ", ".join(label for label, _, _ in model.derived(n))
        out += ["", f"Bodies: {bodies}. Datums: {datums}.", f"Derived: {derived or 'nothing'}.", ""]
    out += [STEPS_HEAD]
    for title, kinds in (
        ("Build step", STEPS),
        ("Outline", OUTLINES),
        ("Places of holes", PLACES),
        ("Ways to repeat", HOW),
    ):
        for kind, model in kinds.items():
            fields = [f"`{n}`" for n in model.model_fields if n not in ("kind", "name", "off", "note")]
            about = getattr(model, "about", "") or (model.__doc__ or "").strip().split("\n\n")[0].replace("\n    ", " ")
            out.append(f"| {title} | {model.title} (`{kind}`) | {about} | {', '.join(fields)} |")
    return "\n".join([*out, ""])


def _shown(kind: str) -> dict[str, object]:
    """A detail in each map, so that its datum and body are told."""
    details: dict[str, dict[str, object]] = {
        "frame_plate": {
            "bores": {"a_bore": {"x": "30 mm", "y": "30 mm"}},
            "posts": {"a_post": {"x": "60 mm", "y": "30 mm"}},
        },
        "spur_gear": {"pins": {"a_pin": {"x": "7 mm", "diameter": "3 mm"}}},
        "link_bar": {"second_distance": "30 mm", "finger": "20 mm"},
        "pin": {"head_diameter": "8 mm", "head_height": "2 mm"},
        "arc_link": {"slot": "40 deg"},
        "stepped_shaft": {"bore": "4 mm"},
    }
    return details.get(kind, {})


if __name__ == "__main__":
    (Path(__file__).parent / "elements.md").write_text(text(), encoding="utf-8")
