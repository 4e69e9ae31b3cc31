"""Writes docs/handover: what of the foil tucker is handed over, as it ships and as it is mended.

python docs/handover.py
"""

from __future__ import annotations

from pathlib import Path

from uhrwerk import Evaluator
from uhrwerk.core.drafting.export import assembly_drawing, drawing_of, sheet_file
from uhrwerk.core.exchange import written
from uhrwerk.core.line_drawing import as_svg
from uhrwerk.core.report import as_junit, as_pdf, contents
from uhrwerk.core.report.stills import still
from uhrwerk.core.upgrade import read
from uhrwerk.core.views import comparison
from uhrwerk.formats import FORMATS

ROOT = Path(__file__).parent.parent
TARGET = ROOT / "docs/handover"
DEMO = ROOT / "src/uhrwerk/demo"


def main() -> None:
    TARGET.mkdir(exist_ok=True)
    evaluator = Evaluator()
    try:
        before, after = (
            read((DEMO / f"{name}.json").read_text(encoding="utf-8")) for name in ("foil-tucker", "foil-tucker-mended")
        )
        was, now = evaluator.evaluate(before), evaluator.evaluate(after)
        since = ("the first draft", comparison(before, after, was, now))
        rocker = drawing_of(now, "rocker_and_finger", revision="2")
        files = {
            "report.pdf": as_pdf(contents(now, "as mended", since)),
            "rocker.pdf": sheet_file("rocker.pdf", rocker),
            "rocker.svg": sheet_file("rocker.svg", rocker),
            "rocker.dxf": sheet_file("rocker.dxf", rocker),
            "assembly.pdf": sheet_file("a.pdf", assembly_drawing(now, revision="2")),
            "exploded.pdf": sheet_file("a.pdf", assembly_drawing(now, revision="2", exploded=True)),
            "mechanism.mjcf": written("a.mjcf", now)[0],
            "motion.html": written("motion.html", now)[0],
            "parts.csv": written("parts.csv", now)[0],
            "verdicts.xml": as_junit(now),
            "still.svg": as_svg(still(now, 1.39)).encode("utf-8"),
        }
        assert ".html" in FORMATS
        for name, data in files.items():
            (TARGET / name).write_bytes(data)
    finally:
        evaluator.close()


if __name__ == "__main__":
    main()
