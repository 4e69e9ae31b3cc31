"""The public functions of the package: check a document, load a file, export a result; and a result as a notebook shows it."""

from __future__ import annotations

from dataclasses import fields
from html import escape
from pathlib import Path

from uhrwerk import formats as _formats  # noqa: F401  registers those that show what a page shows
from uhrwerk.core.context import temporary_context
from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.exchange import Chosen, imported_document, written
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.views.sketch import Sketch, sketch

WORDS = {True: "holds", False: "fails", None: "undecided"}
#: of the drawing, px
WIDTH, HEIGHT, EDGE = 480, 270, 24


class Result(Evaluation):
    """An evaluation that a notebook shows: its scheme, and its verdicts as a table."""

    def _repr_svg_(self) -> str:
        """The scheme at the start of the cycle, as SVG."""
        return _svg(sketch(self.stated, self.context, WIDTH, HEIGHT, EDGE))

    def _repr_html_(self) -> str:
        """The scheme, and every requirement with its verdict, value and limit in words."""
        rows = "".join(
            f"<tr><td>{WORDS[v.holds]}</td><td>{escape(v.name)}</td><td>{escape(v.words)}</td></tr>"
            for v in self.verdicts.values()
        )
        problems = "".join(f"<li>{escape(p.words)}</li>" for p in self.problems)
        listed = f"<ul>{problems}</ul>" if problems else ""
        table = f"<table><tr><th></th><th>Requirement</th><th>Verdict</th></tr>{rows}</table>" if rows else ""
        return f"<h4>{escape(self.stated.name)}</h4>{self._repr_svg_()}{listed}{table}"


def _svg(drawn: Sketch) -> str:
    parts = [
        *(f'<circle cx="{x}" cy="{y}" r="{r}" stroke-dasharray="4 3"/>' for x, y, r in drawn["gears"]),
        *(f'<path d="{d}"/>' for d in drawn["links"]),
        *(f'<path d="M{x} {y}l-8 13h16z"/>' for x, y, ground in drawn["joints"] if ground),
        *(f'<circle cx="{x}" cy="{y}" r="4" fill="white"/>' for x, y, _ in drawn["joints"]),
    ]
    style = 'fill="none" stroke="currentColor" stroke-width="1.5"'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH}" height="{HEIGHT}" viewBox="0 0 {WIDTH} {HEIGHT}">'
        f"<g {style}>{''.join(parts)}</g></svg>"
    )


def check(document: Document) -> Result:
    """Evaluates a document from scratch: motion, findings, masses and a verdict for every requirement."""
    evaluator = Evaluator()
    try:
        result = evaluator.evaluate(document)
    finally:
        evaluator.close()
    return Result(**{f.name: getattr(result, f.name) for f in fields(result)})


def load(path: str | Path, unit: str = "") -> Document:
    """The mechanism in a file, or, of STEP, STL, 3MF and DXF, its parts; `unit` is mm, cm, m or in where a format states none."""
    with temporary_context() as context:
        return imported_document(Path(path).name, Path(path).read_bytes(), context, unit)


def export(
    evaluation: Evaluation, path: str | Path, part: str = "", time: float = 0.0, group: str = "", down: str = ""
) -> None:
    """Writes a mechanism, one placed part of it or the parts of a group, as a file; the format by its suffix. `time` is a moment of the
    cycle, s; `down` a face that lies on a printer's bed, as placed part/datum."""
    try:
        Path(path).write_bytes(written(Path(path).name, evaluation, Chosen(part, time, group, down))[0])
    finally:
        evaluation.context.kernel_pool.close()
