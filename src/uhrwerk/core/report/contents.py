"""What a report says of an evaluated mechanism, section by section."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from uhrwerk.core.document import formulas
from uhrwerk.core.document.document import WHOLE
from uhrwerk.core.document.requirement import REQUIREMENTS
from uhrwerk.core.evaluation.values import values
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.quantity import display
from uhrwerk.core.report.blocks import Block, Chart, Report, Section, Table, Words
from uhrwerk.core.report.stills import figure, scheme_figure
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.stages.verdict import Verdict
from uhrwerk.core.views import balance, curves, distances, lanes
from uhrwerk.core.views.cards import rows as value_rows
from uhrwerk.core.views.comparison import Comparison
from uhrwerk.core.views.view import tile

ANSWERS = {True: "holds", False: "FAILS", None: "undecided"}
#: what the computation takes for granted, whatever the mechanism
ASSUMED = (
    "Parts are rigid and have exactly the sizes that are stated: limits of sizes, play that is not drawn, and wear are not in it.",
    "Forces follow from inertia, weight, springs and stated loads, without friction and without impact.",
    "Strengths are first estimates by the formulas that their requirements name.",
    "Line drawings are sampled: their lines are exact to about a third of a millimetre on paper.",
)
#: rows of a table of numbers at most; a longer one ends with how many more there are
MOST = 60


def contents(
    e: Evaluation,
    about: str = "",
    since: tuple[str, Comparison] | None = None,
) -> Report:
    """The report of an evaluation. `about`: the revision and the date; `since`: the name of a baseline, and what changed since then."""
    document = e.document
    sections = [
        Section("Mechanism", list(_mechanism(e))),
        Section("Requirements", list(_requirements(e))),
        *([Section(f"Changes since {since[0]}", list(_changes(since[1])))] if since is not None else []),
        Section("Motion", list(_motion(e))),
        Section("Curves", list(_curves(e))),
        Section("Masses and balance", list(_masses(e))),
        Section("Joints, drives and springs", list(_joints(e))),
        Section("Parts", list(_parts(e))),
        Section("Materials", list(_materials(e))),
        Section("Assumptions, and what was not checked", list(_assumptions(e))),
    ]
    return Report(
        title=document.name,
        note=document.note,
        summary=_summary(e),
        about=about,
        sections=[s for s in sections if s.blocks],
    )


def _summary(e: Evaluation) -> str:
    answers = Counter(v.holds for v in e.verdicts.values())
    if not answers:
        return "No requirement is stated."
    if answers[True] == len(e.verdicts) and e.whole_cycle:
        return f"All {len(e.verdicts)} requirements hold."
    parts = [
        *([f"{answers[False]} of {len(e.verdicts)} requirements fail"] if answers[False] else []),
        *([f"{answers[None]} undecided"] if answers[None] else []),
        *(["the cycle is not completed"] if not e.whole_cycle else []),
    ]
    return "; ".join(parts or [f"{answers[True]} of {len(e.verdicts)} requirements hold"]) + "."


def _mechanism(e: Evaluation) -> Iterator[Block]:
    document = e.document
    try:
        yield figure(e, "At the start of the cycle, seen from a corner.")
    except ValidationFailed as error:
        yield Words("There is no drawing: " + "; ".join(why for _, why in error.faults) + ".")
    diagram = scheme_figure(e)
    if diagram is not None:
        yield diagram
    for p in e.problems:
        yield Words(f"Problem: {p.words}")
    mobility = e.mobility
    rows = [
        ["Parts", str(len(document.placed))],
        ["Joints, relations, pairs", f"{len(document.joints)}, {len(document.relations)}, {len(document.pairs)}"],
    ]
    if mobility is not None:
        rows.append(["Freedoms, of them not driven", f"{mobility.count}, {mobility.undriven}"])
    if e.motion is not None:
        rows.append(["Cycle", f"{e.motion.duration:.6g} s in {len(e.motion.times) - 1} frames"])
        rows.append(["Joints hold within", f"{e.motion.residual:.1e} m or rad"])
    if e.masses:
        rows.append(["Mass of the whole", document.display(e.masses[WHOLE].mass, "mass")])
    yield Table(["", ""], rows, [0.4, 0.6])


def _requirements(e: Evaluation) -> Iterator[Block]:
    document = e.document
    ordered = sorted(e.verdicts.items(), key=lambda k: {False: 0, None: 1, True: 2}[k[1].holds])
    if not ordered:
        return
    rows = []
    for _, v in ordered:
        t = tile(document, v)
        error = f"± {t['errorText']}" if t["errorText"] else ""
        rows.append([v.name, ANSWERS[v.holds], t["valueText"], t["limitText"], error, v.basis or v.words])
    yield Table(
        ["Requirement", "Verdict", "Value", "Limit", "Error", "How it was determined"],
        rows,
        [0.22, 0.1, 0.14, 0.14, 0.12, 0.28],
    )
    for i, v in ordered:
        if v.holds is None:
            yield Words(f"{v.name}: undecided. {v.words}")
        elif v.time is not None or v.parts:
            yield from _worst(e, i, v)


def _worst(e: Evaluation, i: str, v: Verdict) -> Iterator[Block]:
    """The moment at which a requirement comes nearest to its limit."""
    when = f" at {v.time:.4g} s" if v.time is not None else ""
    caption = f"{v.name}{when}: {v.words}"
    try:
        yield figure(e, caption, v.time or 0.0, [p.split("/")[0] for p in v.parts], v.points)
    except ValidationFailed:
        yield Words(caption)


def _changes(c: Comparison) -> Iterator[Block]:
    if c["mass"]:
        yield Words(f"Mass: {c['mass']}.")
    if c["verdicts"]:
        word = {True: "held", False: "failed", None: ""}
        rows = [[v["name"], f"{word[v['before']]} {v['was']}".strip(), f"{ANSWERS[v['after']]} {v['now']}"] for v in c["verdicts"]]  # fmt: skip
        yield Table(["Requirement", "Before", "Now"], rows, [0.4, 0.3, 0.3])
    if c["changes"]:
        changed = [[x["name"], x["before"], x["after"]] for x in c["changes"]]
        yield Table(["What", "Before", "Now"], _cut(changed), [0.4, 0.3, 0.3])
    if not c["verdicts"] and not c["changes"]:
        yield Words("Nothing.")


def _motion(e: Evaluation) -> Iterator[Block]:
    if e.motion is None:
        return
    if e.dead_point is not None:
        yield Words(e.dead_point.words)
    for lane in lanes(e, distances(e)):
        points = [(float(t), float(v)) for t, v in lane["points"]]
        if not points:
            continue
        kind = {"input": "input", "output": "output"}.get(lane["kind"], "requirement")
        limits = tuple(lane["band"][2:]) if "band" in lane else (lane["limit"],) if "limit" in lane else ()
        yield Chart(lane["name"], lane["unit"], points, kind, limits)


def _curves(e: Evaluation) -> Iterator[Block]:
    for c in curves(e):
        if c["why"]:
            yield Words(f"{c['name']}: no value. {c['why']}")
            continue
        s = c["series"][0]
        points = [(t, v) for t, v in zip(c["times"], s["values"], strict=False) if v is not None]
        yield Chart(c["name"], s["unit"], points, s["words"])


def _masses(e: Evaluation) -> Iterator[Block]:
    document = e.document
    names = {WHOLE: "The whole", "moving": "What moves"} | {i: g.name for i, g in document.groups.items()}
    rows = [
        [
            names[i],
            document.display(m.mass, "mass"),
            ", ".join(display(float(c), "length", document.units.length) for c in m.centre),
        ]
        for i, m in e.masses.items()
    ]
    if rows:
        yield Table(["Mass of", "Mass", "Centre of gravity at the start (x, y, z)"], rows, [0.34, 0.2, 0.46])
    if e.motion is None or not e.masses:
        return
    balanced = balance(e)
    for r in balanced["rotors"]:
        planes = [[p["name"], p["words"]] for p in r["planes"]]
        yield Table([f"Rotor {r['name']}", r["parts"]], [[*row] for row in r["rows"]] + planes, [0.4, 0.6])
    if balanced["shaking"] is not None:
        yield Words(f"Shaking force on the frame: {balanced['shaking']['words']}")
        yield Words(f"Shaking moment about its centre of gravity: {balanced['shaking']['moment']}")


def _joints(e: Evaluation) -> Iterator[Block]:
    document, known = e.document, values(e)
    rows = []
    for collection in ("joints", "pairs", "drivers"):
        for i, item in getattr(document, collection).items():
            formulas_text = [
                f"{where.rpartition('.')[2].replace('_', ' ')} {text}"
                for where, text, _ in formulas(item)
                if text.split()[0] != "0"
            ][:6]
            computed = [" ".join(r) for r in value_rows(document, known.get(f"{collection}.{i}", []))]
            rows.append([item.name, item.title.lower(), "; ".join(formulas_text), "; ".join(computed)])
    if rows:
        yield Table(["Name", "Kind", "Stated", "Computed"], _cut(rows), [0.2, 0.14, 0.26, 0.4])


def _parts(e: Evaluation) -> Iterator[Block]:
    document = e.document
    counted = Counter((p.part, p.mirrored) for p in document.placed.values() if not p.left_out)
    rows = []
    for item, ((part, mirrored), number) in enumerate(counted.items(), 1):
        design = document.parts[part]
        mass = next((e.part_mass[i] for i, p in document.placed.items() if p.part == part and i in e.part_mass), None)
        rows.append([
            str(item), design.name + (", mirrored" if mirrored else ""), str(number), design.element.title,
            document.materials[design.material].name, "" if mass is None else document.display(mass, "mass"),
        ])  # fmt: skip
    if rows:
        yield Table(
            ["Item", "Part", "Number", "Kind", "Material", "Mass of one"], rows, [0.07, 0.31, 0.1, 0.2, 0.17, 0.15]
        )


def _materials(e: Evaluation) -> Iterator[Block]:
    document = e.document
    used = {document.parts[p.part].material for p in document.placed.values()}
    rows = [
        [m.name, m.density, m.modulus or "not stated", m.strength or "not stated", m.source or "not stated"]
        for i, m in document.materials.items()
        if i in used
    ]
    if rows:
        yield Table(["Material", "Density", "Modulus", "Strength", "Source"], rows, [0.2, 0.18, 0.16, 0.16, 0.3])


def _assumptions(e: Evaluation) -> Iterator[Block]:
    for words in ASSUMED:
        yield Words(words)
    left_out = [p.name for p in e.document.placed.values() if p.left_out]
    if left_out:
        yield Words(f"Left out of all checks: {', '.join(left_out)}.")
    for remark in e.mechanism.remarks:
        yield Words(remark.words)
    required = {r.kind for r in e.document.requirements.values()}
    missing = [str(getattr(model, "title", kind)) for kind, model in REQUIREMENTS.items() if kind not in required]
    if missing:
        yield Words(f"Not required, so not checked: {', '.join(t[0].lower() + t[1:] for t in missing)}.")


def _cut(rows: list[list[str]]) -> list[list[str]]:
    """As many rows as a report takes; the last says how many more there are."""
    if len(rows) <= MOST:
        return rows
    more = [f"and {len(rows) - MOST + 1} more", *[""] * (len(rows[0]) - 1)]
    return [*rows[: MOST - 1], more]
