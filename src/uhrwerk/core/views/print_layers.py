"""Layers for print: a mechanism in one piece, layer by layer, as the page draws it, and what was found in it."""

from __future__ import annotations

from functools import partial
from math import floor, log10
from typing import Any, cast

import numpy as np
import shapely
from pydantic import BaseModel, TypeAdapter, ValidationError

from uhrwerk.core.cache import Cache
from uhrwerk.core.document.document import WHOLE
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.exchange.format import Chosen
from uhrwerk.core.exchange.placing import Stands, bed_under, standing
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.joints.at import At
from uhrwerk.core.part import datum_labels, part_datums
from uhrwerk.core.printing import Bed, Finding, Layers, PrintedBody, Stack, layered
from uhrwerk.core.printing.slices import MM
from uhrwerk.core.quantity import in_unit
from uhrwerk.core.requirements.print_gap import PrintGap
from uhrwerk.core.solids import BuildFailed
from uhrwerk.core.stages.evaluation import Evaluation, Moved
from uhrwerk.core.stages.verdict import Verdict

#: settings, and sections of parts, that are kept for an evaluation
SETTINGS, SECTIONS = 4, 400
#: s that the kernel may take for one part of one layer
LIMIT = 20.0


class PrintSetting(BaseModel):
    """How a mechanism is printed; `down`: the face on the bed, as placed part and datum with a slash between. Empty fields are those of
    the requirement, if one is named, else the usual ones."""

    requirement: str = ""
    of: str = ""
    at_least: str = ""
    layer: str = ""
    line: str = ""
    down: str = ""


class FoundInLayers(BaseModel):
    """What was found in layers `first` to `last`, in words; `parts` are ids of placed parts; `place` mm over the bed. `fails`: the
    requirement does not hold for it."""

    kind: str
    words: str
    first: int
    last: int
    parts: list[str]
    place: tuple[float, float, float]
    fails: bool


class PrintedPart(BaseModel):
    id: str
    name: str
    colour: str


class PrintLayers(BaseModel):
    """`count` layers, each `height` mm; `box` mm over the bed: least x and y, greatest x and y. `setting` is what was used, as
    formulas, `changed` where the requirement says otherwise; `verdict` what the requirement says of it, with `holds`."""

    count: int
    height: float
    box: tuple[float, float, float, float]
    setting: PrintSetting
    changed: bool
    parts: list[PrintedPart]
    findings: list[FoundInLayers]
    verdict: str
    holds: bool | None
    facts: list[tuple[str, str]]
    faces: list[tuple[str, str]]
    groups: list[tuple[str, str]]
    requirements: list[tuple[str, str]]
    basis: str


class PartInLayer(BaseModel):
    """A part's region in a layer: an SVG path in mm with y up, and its area, mm2."""

    id: str
    path: str
    area: float


class PrintLayer(BaseModel):
    """One layer, cut at `height` mm. `exact`: by the kernel, from the exact solids; else by triangles, `within` mm of them, or for the
    `reason` given."""

    layer: int
    height: float
    parts: list[PartInLayer]
    exact: bool
    within: float
    reason: str = ""


def print_layers(e: Evaluation, setting: PrintSetting) -> PrintLayers:
    """ValidationFailed where the setting cannot be read, a part has no solid, or there would be too many layers."""
    stated = _stated(e, setting)
    layers, bed, chosen = _layers(e, stated)
    verdict = _verdict(e, stated)
    document = e.document
    names = [document.placed[b.placed].name for b in layers.bodies]
    box = shapely.total_bounds([r for layer in layers.regions for r in layer if not r.is_empty])
    findings = [_words(e, layers, stated, names, f) for f in layers.findings]
    mass = sum(e.part_mass.get(one.id, 0.0) for one in chosen)
    volume = sum(b.volume for one in chosen for b in one.solid.bodies.values())
    size = " x ".join(document.display(float(d) / MM, "length") for d in (box[2] - box[0], box[3] - box[1]))
    facts = [
        ("Layers", str(len(layers.regions))),
        ("Size on the bed", size),
        ("Height", document.display(bed.height, "length")),
        ("Volume", _power(e, volume, 3)),
        ("Mass", document.display(mass, "mass") if mass else ""),
    ]
    return PrintLayers(
        count=len(layers.regions),
        height=layers.stack.height,
        box=cast(tuple[float, float, float, float], tuple(float(v) for v in box)),
        setting=_written(stated, setting.requirement),
        changed=setting.requirement != "" and e.stated.requirements[setting.requirement] != stated,
        parts=[PrintedPart(id=one.id, name=one.name, colour=_hex(one.colour)) for one in chosen],
        findings=findings,
        verdict=verdict.words if verdict else "nothing moves here, so no gap is asked for",
        holds=verdict.holds if verdict else None,
        facts=[f for f in facts if f[1]],
        faces=_faces(e, [one.id for one in chosen]),
        groups=[(WHOLE, "the whole"), *((i, g.name) for i, g in document.groups.items())],
        requirements=[(i, r.name) for i, r in e.stated.requirements.items() if isinstance(r, PrintGap)],
        basis=_basis(e, layers),
    )


def print_layer(e: Evaluation, setting: PrintSetting, layer: int, exact: bool = True) -> PrintLayer:
    """One layer, by the kernel or by triangles. ValidationFailed where there is no such layer."""
    stated = _stated(e, setting)
    layers, _, chosen = _layers(e, stated)
    if not 0 <= layer < len(layers.regions):
        raise ValidationFailed(("layer", f"there are layers 0 to {len(layers.regions) - 1}, not {layer}"))
    z = layers.stack.middle(layer)
    parts, reason = [], ""
    for one in chosen:
        bodies = [k for k, b in enumerate(layers.bodies) if b.placed == one.id]
        regions = [r for r in (layers.regions[layer][k] for k in bodies) if not r.is_empty]
        if not regions:
            continue
        rings = [shapely.get_coordinates(ring) for r in regions for ring in shapely.get_rings(r)]
        path, area = _path(rings), float(sum(r.area for r in regions))
        if exact:
            sections = e.once("sections", lambda: Cache[tuple[str, float]](SECTIONS))
            name = stated.model_dump_json(), one.id, _first_like(layers, bodies, layer)
            try:
                path, area = sections.get(name, partial(_exact, e, one, z))
            except BuildFailed as failed:
                reason = f"{one.name}: {failed}"
        parts.append(PartInLayer(id=one.id, path=path, area=area))
    within = _deviation(layers) * MM
    return PrintLayer(layer=layer, height=z, parts=parts, exact=exact and not reason, within=within, reason=reason)


def _first_like(layers: Layers, bodies: list[int], layer: int) -> int:
    """The lowest layer from which on, up to this one, bodies are prisms: they have one and the same section there."""
    regions = layers.regions
    while layer > 0 and all(regions[layer - 1][k] is regions[layer][k] for k in bodies):
        layer -= 1
    return layer


def _exact(e: Evaluation, one: Stands, z: float) -> tuple[str, float]:
    """The kernel's section of a part that lies over the bed: its path, mm, and area, mm2."""
    back = poses.inverse(one.pose)
    origin = poses.place(back, np.array([[0.0, 0.0, z / MM]]))[0]
    normal, right = (poses.rotate(back[3:], np.array(v, dtype=float)) for v in ((0, 0, 1), (1, 0, 0)))
    placed = e.document.placed[one.id]
    recipe = part_datums.recipe(e.document, placed.part, placed.mirrored)[0]
    faces = e.context.kernel_pool.call(
        "section", recipe, (origin.tolist(), normal.tolist(), right.tolist()), limit=LIMIT
    )
    loops = [np.asarray(loop) * MM for _, face in faces for loop in face]
    return _path(loops), float(sum(area for area, _ in faces)) * MM**2


def _path(loops: list[poses.Array]) -> str:
    return "".join("M" + "L".join(f"{x:.4f} {y:.4f}" for x, y in loop) + "Z" for loop in loops)


def _stated(e: Evaluation, setting: PrintSetting) -> PrintGap:
    """The requirement that a setting makes; as a requirement of the document, where the setting leaves it as it is."""
    known = e.stated.requirements.get(setting.requirement)
    if setting.requirement and not isinstance(known, PrintGap):
        raise ValidationFailed(("requirement", f"there is no print gap {setting.requirement!r}"))
    data: dict[str, Any] = known.model_dump() if isinstance(known, PrintGap) else {"name": "Print gap"}
    given = setting.model_dump(exclude={"requirement", "down"})
    data |= {k: v for k, v in given.items() if v}
    if setting.down:
        placed, _, datum = setting.down.partition("/")
        data["down"] = None if setting.down == AS_IT_STANDS else {"placed": placed, "datum": datum}
    try:
        stated = TypeAdapter(PrintGap).validate_python(data)
    except ValidationError as error:
        why = {"down": "it is not a face: state placed part/datum"}
        at_fault = dict.fromkeys(str(f["loc"][0]) for f in error.errors())
        raise ValidationFailed(*((f, why.get(f, "it cannot be read")) for f in at_fault)) from None
    scope = e.document.scope()
    for field in ("at_least", "layer", "line"):
        try:
            value = scope.value(getattr(stated, field), "length")
        except ValueError as error:
            raise ValidationFailed((field, str(error))) from None
        if field != "at_least" and value <= 0:
            raise ValidationFailed((field, "it must be greater than nothing"))
    if stated.of != WHOLE and stated.of not in e.document.groups:
        raise ValidationFailed(("of", f"there is no group {stated.of!r}"))
    return stated


#: of `down`: no face, whatever the requirement says
AS_IT_STANDS = "-"


def _written(stated: PrintGap, requirement: str) -> PrintSetting:
    down = AS_IT_STANDS if stated.down is None else f"{stated.down.placed}/{stated.down.datum}"
    return PrintSetting(
        requirement=requirement, of=stated.of, at_least=stated.at_least, layer=stated.layer, line=stated.line, down=down
    )


def _verdict(e: Evaluation, stated: PrintGap) -> Verdict | None:
    if not isinstance(e.movement, Moved) or e.pairs is None:
        return None
    return e.once(f"print gap {stated.model_dump_json()}", lambda: stated.judge(e))


def _layers(e: Evaluation, stated: PrintGap) -> tuple[Layers, Bed, list[Stands]]:
    """The layers of what is printed; its bed; the parts as they lie on it."""
    settings = e.once("layers", lambda: Cache[tuple[Layers, Bed, list[Stands]]](SETTINGS))
    return settings.get(stated.model_dump_json(), partial(_cut, e, stated))


def _cut(e: Evaluation, stated: PrintGap) -> tuple[Layers, Bed, list[Stands]]:
    scope = e.document.scope()
    down = f"{stated.down.placed}/{stated.down.datum}" if isinstance(stated.down, At) else ""
    upright = standing(e, Chosen(group="" if stated.of == WHOLE else stated.of))
    bed = bed_under(e, down, upright)
    lying = [one.moved(bed.place(one.pose)) for one in upright]
    bodies = [
        PrintedBody(one.id, body.name, e.mechanism.link_of[one.id], vertices, triangles, body.deviation)
        for one in lying
        for body, vertices, triangles in one.bodies()
    ]
    layer, line, gap = (scope.value(t, "length") * MM for t in (stated.layer, stated.line, stated.at_least))
    try:
        return layered(bodies, Stack(layer), line, gap), bed, lying
    except ValueError as error:
        raise ValidationFailed(("layer", str(error))) from None


def _words(e: Evaluation, layers: Layers, stated: PrintGap, names: list[str], f: Finding) -> FoundInLayers:
    shown, limit = e.document.display, e.document.scope().value(stated.at_least, "length")
    who = [names[b] for b in f.bodies]
    fails = f.kind == "unparted" or (f.kind == "narrow" and f.value / MM < limit - 2 * _deviation(layers))
    if f.kind == "narrow":
        gap = "no gap" if f.value == 0 else f"a gap of {shown(f.value / MM, 'length')}"
        below = "the least gap" if fails else f"a line of {shown(layers.line / MM, 'length')}"
        words = f"{who[0]} and {who[1]}: {gap}, narrower than {below}"
    elif f.kind == "unparted":
        words = f"{who[1]} above {who[0]}: no whole layer is left out between them"
    elif f.kind == "overhang":
        words = f"{who[0]} reaches {_power(e, f.value / MM**2, 2)} farther than 45 degrees over the layer below"
    elif f.kind == "island":
        layers_left = f"{f.empty} empty layer{'s' if f.empty > 1 else ''} above {who[0]}"
        beneath = layers_left if len(who) > 1 else "with nothing below it"
        words = f"{who[-1]} starts in the air with {_power(e, f.value / MM**2, 2)}, {beneath}"
    else:
        words = f"a void of {_power(e, f.value / MM**3, 3)} is shut in"
    parts = list(dict.fromkeys(layers.bodies[b].placed for b in f.bodies))
    return FoundInLayers(kind=f.kind, words=words, first=f.first, last=f.last, parts=parts, place=f.place, fails=fails)


def _power(e: Evaluation, value: float, power: int) -> str:
    """An area or a volume (m2, m3) in the mechanism's unit of length."""
    unit = e.document.unit_of("length")
    number = value * in_unit(1.0, "length", unit) ** power
    digits = max(0, 2 - floor(log10(number))) if number > 0 else 0
    return f"{number:.{digits}f} {unit}{'²³'[power - 2]}"


def _deviation(layers: Layers) -> float:
    return max((b.deviation for b in layers.bodies), default=0.0)


def _basis(e: Evaluation, layers: Layers) -> str:
    stray = e.document.display(_deviation(layers), "length")
    return (
        f"Layers are drawn from the exact solids, cut just above the middle of each. What was found follows from slices of "
        f"triangles within {stray} of the solids, one for each layer; what is smaller than half a square line is left out. The "
        f"verdict is that of the requirement: it looks at the solids, not at layers alone."
    )


def _faces(e: Evaluation, placed: list[str]) -> list[tuple[str, str]]:
    """Faces that can lie on the bed: (placed part/datum, words)."""
    document, all_datums = e.document, e.mechanism.datums
    return [
        (f"{i}/{name}", f"{document.placed[i].name}: {label}")
        for i in placed
        for name, label in datum_labels.labels(document, document.placed[i].part, all_datums.get(i, {})).items()
        if all_datums[i][name].kind == "plane" and not name.endswith("_plane")
    ]


def _hex(colour: tuple[float, float, float]) -> str:
    return "#" + "".join(f"{round(c * 255):02x}" for c in colour)
