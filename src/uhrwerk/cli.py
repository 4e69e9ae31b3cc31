"""The command line: check, motion, mass, report, schema without a browser; serve and demo with one.

Exit codes of `check`: 0 every requirement holds, 1 some fail or the drive comes to a dead point, 2 not readable, not solvable or
undecided.
"""

from __future__ import annotations

import argparse
import io
import json
import os
import sqlite3
import sys
from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np

from uhrwerk import __version__
from uhrwerk.completion import SHELLS, script
from uhrwerk.core import views
from uhrwerk.core.context import Context, temporary_context
from uhrwerk.core.document import Document, ValidationFailed, schema
from uhrwerk.core.drafting.document_sheet import Issue, document_sheet, stated_drawing
from uhrwerk.core.drafting.export import assembly_drawing, drawing_of, sheet_file
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.evaluation.values import part_mass, values, where
from uhrwerk.core.exchange import Chosen, imported_document, written
from uhrwerk.core.exchange.cutter import as_dxf, as_table, cutter_path
from uhrwerk.core.exchange.importing import LARGEST, UNITS
from uhrwerk.core.exchange.spreadsheet import comma_separated
from uhrwerk.core.line_drawing import VIEWS, Picture, as_png, as_svg
from uhrwerk.core.quantity import display
from uhrwerk.core.report import as_junit, as_pdf, contents
from uhrwerk.core.report.stills import still
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.core.views.cards import row
from uhrwerk.formats import FORMATS
from uhrwerk.progress import Progress
from uhrwerk.settings import Settings


class Unusable(Exception):
    """Ends the command with exit code 2 and these lines."""


def main(arguments: list[str] | None = None) -> int:
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(encoding="utf-8")  # what is told holds signs that a locale without UTF-8 cannot print
    options = _parser().parse_args(arguments)
    try:
        return int(options.run(options))
    except Unusable as error:
        print(error, file=sys.stderr)
        return 2
    except BrokenPipeError:
        return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="uhrwerk", description=__doc__.split("\n\n")[0])
    parser.add_argument("--version", action="version", version=f"uhrwerk {__version__}")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    def add(
        name: str, run: Callable[[argparse.Namespace], int], about: str, file: bool = True
    ) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=about, description=about)
        sub.set_defaults(run=run)
        if file:
            sub.add_argument(
                "file",
                type=Path,
                help="a mechanism, as JSON (docs/file-format.md), or a file of solids; - for a mechanism on standard input",
            )
            sub.add_argument("--unit", default="", choices=["", *UNITS], help="of a file that states none, such as STL")
        return sub

    check = add("check", _check, "every requirement: value, limit, where and when")
    check.add_argument("--junit", type=Path, metavar="PATH", help="writes the verdicts as JUnit XML as well")
    check.add_argument("--json", action="store_true", help="SI values with the unit named (docs/results-schema.json)")
    motion = add("motion", _motion, "angles, travels, speeds and accelerations of joints over the cycle")
    motion.add_argument("--of", nargs="*", default=[], metavar="JOINT", help="ids of joints; all if none is given")
    place = "where a part or a datum of it is, instead of joints"
    motion.add_argument("--place", nargs="*", default=[], metavar="PART[.DATUM]", help=place)
    form = motion.add_mutually_exclusive_group()
    form.add_argument("--csv", action="store_true", help="comma-separated values (the default)")
    form.add_argument("--json", action="store_true")
    _more(add)
    mass = add("mass", _mass, "mass and centre of gravity of the whole, of the moving parts, of each group")
    mass.add_argument("--group", metavar="NAME", help="id or name of one group or part, or whole, or moving")
    mass.add_argument("--of", nargs="+", default=[], metavar="PART", help="ids of parts, all of them together")
    mass.add_argument("--in", dest="frame", default="", metavar="PART[.DATUM]", help="the frame of reference of --of")
    mass.add_argument("--at", type=float, default=0.0, metavar="SECONDS", help="the moment of --of, the nearest frame")
    mass.add_argument("--json", action="store_true")
    shakes = add("balance", _balance, "rotors with their unbalance and what balances them; the force on the frame")
    shakes.add_argument("--json", action="store_true", help="all values, as JSON")
    every = add("values", _values, "every number: derived sizes, pairs, masses, coordinates, verdicts")
    every.add_argument(
        "--of", nargs="*", default=[], metavar="PATH", help="paths, such as pairs.first_stage; all if none is given"
    )
    every.add_argument("--json", action="store_true", help="SI values with the unit named")
    export = add("export", _export, "the mechanism as a file; the format by its suffix")
    export.add_argument("--to", type=Path, required=True, metavar="PATH", help=_written_formats())
    export.add_argument("--part", default="", metavar="ID", help="one placed part alone, in its own frame")
    export.add_argument(
        "--at", type=float, default=0.0, metavar="SECONDS", help="a moment of the cycle; the start if left out"
    )
    export.add_argument("--group", default="", metavar="ID", help="the parts of a group alone")
    export.add_argument("--down", default="", metavar="PART/FACE", help="the face that lies on a printer's bed")
    report = add("report", _report, "a report as PDF: requirements, worst moments, motion, masses, parts, assumptions")
    report.add_argument("--to", type=Path, required=True, metavar="PATH", help="the PDF file")
    report.add_argument("--since", type=Path, metavar="FILE", help="an earlier state of the mechanism: what changed")
    still = add("picture", _picture, "a line drawing as .svg or .png, or a series of them for a film")
    still.add_argument(
        "--to",
        type=Path,
        required=True,
        metavar="PATH",
        help="the picture; of a series, 0001 and so on follow its name",
    )
    still.add_argument(
        "--at", type=float, default=0.0, metavar="SECONDS", help="a moment of the cycle; the start if left out"
    )
    still.add_argument(
        "--frames", type=int, default=0, metavar="COUNT", help="a series over the cycle instead of one moment"
    )
    still.add_argument("--view", choices=VIEWS, default="corner", help="from where it is seen")
    still.add_argument("--width", type=int, default=1280, help="in pixels")
    still.add_argument("--height", type=int, default=800, help="in pixels")
    sheet = add(
        "drawing",
        _drawing,
        "a drawing of the whole with its parts list, or of one part with its sizes, as .pdf, .svg or .dxf",
    )
    sheet.add_argument("--part", default="", metavar="ID", help="the placed part; the whole if left out")
    sheet.add_argument("--sheet", default="", metavar="ID", help="a drawing of the document, as it is set there")
    sheet.add_argument("--group", default="whole", metavar="ID", help="the parts of a group alone")
    sheet.add_argument("--at", type=float, default=0.0, metavar="SECONDS", help="the moment of the cycle, of the whole")
    sheet.add_argument("--exploded", action="store_true", help="the whole taken apart along its joints")
    sheet.add_argument("--to", type=Path, required=True, metavar="PATH", help=".pdf, .svg or .dxf")
    sheet.add_argument("--projection", choices=["first", "third"], default="first", help="angle, by ISO 5456-2")
    add("schema", lambda _: _print_json(schema()), "JSON Schema of the document", file=False)
    shell = add("completion", _completion, "a script that completes commands and options in a shell", file=False)
    shell.add_argument("shell", choices=SHELLS)
    shell.set_defaults(commands=commands.choices)
    data = add("data", _data, "inspects the data folder, or copies it while it is in use", file=False)
    data.add_argument("--data", type=Path, help="folder for data")
    data.add_argument("--copy", type=Path, metavar="PATH", help="where to put a copy of the database")
    for name, about in (
        ("serve", "the workspace, at an address on this machine"),
        ("demo", "the same, with the demo machine"),
    ):
        sub = add(name, _serve, about, file=False)
        sub.set_defaults(demo=name == "demo")
        sub.add_argument("--host")
        sub.add_argument("--port", type=int)
        sub.add_argument("--data", type=Path, help="folder for data")
        if name == "demo":
            sub.add_argument("--fresh", action="store_true", help="start over with the demo as shipped")
    return parser


def _more(add: Callable[..., argparse.ArgumentParser]) -> None:
    """Curves over the cycle, and the way of a cutter."""
    curves = add("curves", _curves, "curves over the cycle, in shown units: values, rates, accelerations, jerks")
    curves.add_argument("--of", nargs="*", default=[], metavar="CURVE", help="ids of curves; all if none is given")
    curves.add_argument("--json", action="store_true")
    cutter = add("cutter", _cutter, "the path of a cutter's centre round a cam, as .dxf or .csv")
    cutter.add_argument("--part", required=True, metavar="ID", help="the placed cam")
    cutter.add_argument("--diameter", default="10 mm", help="of the cutter")
    cutter.add_argument("--to", type=Path, required=True, metavar="PATH", help=".dxf or .csv")


def _written_formats() -> str:
    return ", ".join(f"{f.suffix} ({f.title.lower()})" for f in FORMATS.values() if f.write is not None)


def _chosen(options: argparse.Namespace) -> Chosen:
    return Chosen(options.part, options.at, options.group, options.down)


def _export(options: argparse.Namespace) -> int:
    try:
        data, _ = written(options.to.name, _evaluate(options.file, options.unit), _chosen(options))
    except ValidationFailed as error:
        raise Unusable("; ".join(why for _, why in error.faults)) from error
    _save(options.to, data)
    return 0


def _report(options: argparse.Namespace) -> int:
    if options.to.suffix.lower() != ".pdf":
        raise Unusable(f"{options.to}: a report is written as .pdf")
    evaluator = Evaluator(folder=Settings().data / "solids")
    try:
        document = _load(options.file, options.unit, evaluator.context)
        with Progress() as progress:
            result = evaluator.evaluate(document, progress)
            since = None
            if options.since is not None:
                before = _load(options.since, options.unit, evaluator.context)
                was = evaluator.evaluate(before, progress)
                since = (options.since.name, views.comparison(before, document, was, result))
            words = f"{options.file.name}, {datetime.now().astimezone():%d %B %Y, %H:%M}"
            data = as_pdf(contents(result, words, since))
    finally:
        evaluator.kernel_pool.close()
    _save(options.to, data)
    return 0


def _picture(options: argparse.Namespace) -> int:
    kinds: dict[str, Callable[[Picture], bytes]] = {".svg": lambda p: as_svg(p).encode("utf-8"), ".png": as_png}
    if options.to.suffix.lower() not in kinds:
        raise Unusable(f"{options.to}: a picture is written as {' or '.join(kinds)}")
    if not (16 <= options.width <= 8000 and 16 <= options.height <= 8000):
        raise Unusable("--width and --height: from 16 to 8000 pixels")
    if not 0 <= options.frames <= 5000:
        raise Unusable("--frames: at most 5000")
    result = _evaluate(options.file, options.unit)
    size = (float(options.width), float(options.height))
    last = result.motion.duration if result.motion is not None else 0.0
    times = [last * k / options.frames for k in range(options.frames)] or [options.at]
    try:
        for k, time in enumerate(times, 1):
            name = f"{options.to.stem}{k:04}{options.to.suffix}" if options.frames else options.to.name
            drawing = still(result, time, VIEWS[options.view], size, fine=1.5)
            _save(options.to.with_name(name), kinds[options.to.suffix.lower()](drawing))
    except ValidationFailed as error:
        raise Unusable("; ".join(why for _, why in error.faults)) from error
    return 0


def _drawing(options: argparse.Namespace) -> int:
    result = _evaluate(options.file, options.unit)
    try:
        date = f"{datetime.now().astimezone():%Y-%m-%d}"
        first = options.projection == "first"
        if options.sheet:
            sheet = document_sheet(result, stated_drawing(result, options.sheet), Issue(date=date))
        elif options.part:
            sheet = drawing_of(result, options.part, first, date=date)
        else:
            sheet = assembly_drawing(
                result, options.group, first, date=date, time=options.at, exploded=options.exploded
            )
        data = sheet_file(options.to.name, sheet)
    except ValidationFailed as error:
        raise Unusable("; ".join(why for _, why in error.faults)) from error
    finally:
        result.context.kernel_pool.close()
    _save(options.to, data)
    return 0


def _save(path: Path, data: bytes) -> None:
    try:
        path.write_bytes(data)
    except OSError as error:
        raise Unusable(f"{path}: {error.strerror}") from error


def _print_json(data: Any) -> int:
    print(json.dumps(data, indent=1, ensure_ascii=False))
    return 0


def _print_table(rows: Sequence[Sequence[str | float]]) -> int:
    print(comma_separated(rows), end="")
    return 0


def _completion(options: argparse.Namespace) -> int:
    print(script(options.shell, options.commands), end="")
    return 0


def _load(path: Path, unit: str, context: Context) -> Document:
    try:
        if str(path) == "-":
            return imported_document("document.json", sys.stdin.buffer.read(LARGEST + 1), context, unit)
        if path.stat().st_size > LARGEST:
            raise Unusable(f"{path}: larger than {LARGEST // 10**6} MB; this is not a mechanism")
        return imported_document(
            path.name if path.suffix.lower() in FORMATS else f"{path.name}.json", path.read_bytes(), context, unit
        )
    except OSError as error:
        raise Unusable(f"{path}: {error.strerror}") from error
    except UnicodeDecodeError as error:
        raise Unusable(f"{path}: document: not UTF-8 text") from error
    except ValidationFailed as error:
        raise Unusable("\n".join(f"{path}: {where}: {why}" for where, why in error.faults)) from error


def _loaded(path: Path, unit: str) -> Document:
    """A document that is not evaluated."""
    with temporary_context() as context:
        return _load(path, unit, context)


def _evaluate(path: Path, unit: str, motion_only: bool = False) -> Evaluation:
    settings = Settings()
    evaluator = Evaluator(folder=settings.data / "solids")
    try:
        document = _load(path, unit, evaluator.context)
        with Progress() as progress:
            return evaluator.moved(document, progress) if motion_only else evaluator.evaluate(document, progress)
    finally:
        evaluator.kernel_pool.close()


def _solved(path: Path, unit: str, motion_only: bool = False) -> Evaluation:
    result = _evaluate(path, unit, motion_only)
    if result.motion is None:
        raise Unusable(
            "\n".join(f"{path}: {p.path}: {p.words}" for p in result.problems)
            or f"{path}: placed: there is no part yet"
        )
    return result


def results(result: Evaluation) -> dict[str, Any]:
    """What `check --json` prints; its schema lies in docs/results-schema.json."""
    return {
        "format": 1,
        "name": result.document.name,
        "holds": result.holds,
        "problems": [{"path": p.path, "words": p.words} for p in result.problems],
        "mobility": None if result.mobility is None else {
            "count": result.mobility.count, "undriven": result.mobility.undriven, "redundant": result.mobility.redundant,
            "freedoms": [f.words for f in result.mobility.freedoms], "loose": result.mobility.loose,
        },
        "cycle": None if result.motion is None else {
            "duration": result.motion.duration, "unit": "s", "frames": len(result.motion.times) - 1, "residual": result.motion.residual,
        },
        "verdicts": [v.data() for v in result.verdicts.values()],
    }  # fmt: skip


def _coloured(word: str) -> str:
    """A verdict's word, as wide as the widest; in colour on a terminal, unless NO_COLOR is set (no-color.org)."""
    code = {"FAILS": 31, "undecided": 33}.get(word)
    plain = f"{word:9}"
    if code is None or not sys.stdout.isatty() or os.environ.get("NO_COLOR"):
        return plain
    return f"\x1b[{code}m{plain}\x1b[0m"


def _check(options: argparse.Namespace) -> int:
    result = _evaluate(options.file, options.unit)
    if options.junit is not None:
        _save(options.junit, as_junit(result))
    if options.json:
        _print_json(results(result))
    else:
        for problem in result.problems:
            print(f"{options.file}: {problem.path}: {problem.words}", file=sys.stderr)
        for v in result.verdicts.values():
            word = _coloured({True: "holds", False: "FAILS", None: "undecided"}[v.holds])
            about = (
                f" (± {display(v.error, 'length', result.document.units.length, 4)})" if v.dimension == "length" else ""
            )
            print(f"{word}  {v.name}: {v.words}{about}")
        if not result.verdicts:
            print("there are no requirements")
    if result.motion is None or result.holds is None:
        return 2
    # a drive that comes to a dead point does not reach the motion that was asked for
    return 0 if result.holds and result.motion.stop is None else 1


def _motion(options: argparse.Namespace) -> int:
    result = _solved(options.file, options.unit, motion_only=True)
    for problem in result.problems:
        print(f"{options.file}: {problem.path}: {problem.words}", file=sys.stderr)
    if options.place:
        return _places(options, result)
    unknown = [j for j in options.of if j not in result.coordinates]
    if unknown:
        raise Unusable(
            f"{options.file}: there is no moving joint {unknown[0]!r}; known are {', '.join(result.coordinates)}"
        )
    chosen = {j: result.coordinates[j] for j in options.of or result.coordinates}
    times = result.moved.motion.times
    if options.json:
        return _print_json({
            "time": {"unit": "s", "values": times.tolist()},
            "residual": {"unit": "m or rad", "value": result.moved.motion.residual},
            "joints": {j: {
                "joint": c.joint, "coordinate": c.name, "unit": "rad" if c.turning else "m", "value": c.value.tolist(), "rate": c.rate.tolist(), "acceleration": c.acceleration.tolist(),
            } for j, c in chosen.items()},
        })  # fmt: skip
    units = {j: "rad" if c.turning else "m" for j, c in chosen.items()}
    heads = [h for j, u in units.items() for h in (f"{j} ({u})", f"{j} ({u}/s)", f"{j} ({u}/s2)")]
    columns = [x for c in chosen.values() for x in (c.value, c.rate, c.acceleration)]
    return _print_table([["time (s)", *heads], *([t, *(x[at] for x in columns)] for at, t in enumerate(times))])


def _curves(options: argparse.Namespace) -> int:
    result = _solved(options.file, options.unit, motion_only=True)
    unknown = [i for i in options.of if i not in result.document.curves]
    if unknown or not result.document.curves:
        known = ", ".join(result.document.curves)
        why = f"there is no curve {unknown[0]!r}; known are {known}" if known else "there are no curves"
        raise Unusable(f"{options.file}: {why}")
    if options.json:
        return _print_json([c for c in views.curves(result) if not options.of or c["id"] in options.of])
    print(views.table(result, options.of), end="")
    return 0


def _cutter(options: argparse.Namespace) -> int:
    try:
        way = cutter_path(_loaded(options.file, options.unit), options.part, options.diameter)
    except ValidationFailed as error:
        raise Unusable("; ".join(why for _, why in error.faults)) from error
    kinds: dict[str, Callable[[Array], bytes]] = {".dxf": as_dxf, ".csv": lambda w: as_table(w).encode("utf-8")}
    if options.to.suffix.lower() not in kinds:
        raise Unusable(f"{options.to}: the path of a cutter is written as {' or '.join(kinds)}")
    try:
        options.to.write_bytes(kinds[options.to.suffix.lower()](way))
    except OSError as error:
        raise Unusable(f"{options.to}: {error.strerror}") from error
    return 0


def _places(options: argparse.Namespace, result: Evaluation) -> int:
    """Positions, turns and velocities of parts and datums at every frame."""
    try:
        places = {name: where(result, name) for name in options.place}
    except ValidationFailed as error:
        raise Unusable("\n".join(f"{options.file}: {path}: {why}" for path, why in error.faults)) from error
    times = result.moved.motion.times
    if options.json:
        return _print_json(
            {"time": {"unit": "s", "values": times.tolist()}, "places": {n: t.data() for n, t in places.items()}}
        )
    heads = ("x (m)", "y (m)", "z (m)", "turn x (rad)", "turn y (rad)", "turn z (rad)")
    rows = ([t, *(x for p in places.values() for x in (*p.pose[at, :3], *p.turns[at]))] for at, t in enumerate(times))
    return _print_table([["time (s)", *(f"{n} {h}" for n in places for h in heads)], *rows])


def _values(options: argparse.Namespace) -> int:
    result = _evaluate(options.file, options.unit)
    for problem in result.problems:
        print(f"{options.file}: {problem.path}: {problem.words}", file=sys.stderr)
    known = values(result)
    unknown = [p for p in options.of if p not in known]
    if unknown:
        raise Unusable(
            f"{options.file}: there is no value {unknown[0]!r}; paths look like {', '.join(list(known)[:5])}"
        )
    chosen = {p: known[p] for p in options.of or known}
    if options.json:
        return _print_json({p: {v.name: v.data() for v in item_values} for p, item_values in chosen.items()})
    for path, item_values in chosen.items():
        for v in item_values:
            if v.dimension != "inertia" and not isinstance(v.value, np.ndarray):
                print(f"{path}  {': '.join(row(result.document, v))}")
    return 0


def _mass(options: argparse.Namespace) -> int:
    result = _solved(options.file, options.unit)
    if len(result.solids) < len(result.document.placed):
        raise Unusable("\n".join(f"{options.file}: {p.path}: {p.words}" for p in result.problems))
    if options.of:
        masses = views.masses(result, options.of, options.frame, options.at)
        if options.json:
            return _print_json(dict(masses))
        print("\n".join([f"at {masses['time']:.6g} s", *(f"{label}: {words}" for label, words in masses["rows"])]))
        return 0
    names = {i: g.name for i, g in result.document.groups.items()} | {"whole": "the whole", "moving": "what moves"}
    known = dict(result.masses)
    chosen = [i for i in known if options.group in (None, i, names[i])]
    parts = [i for i, p in result.document.placed.items() if options.group in (i, p.name)]
    if not chosen and parts:
        names |= {parts[0]: result.document.placed[parts[0]].name}
        known[parts[0]] = part_mass(result, parts[:1])
        chosen = parts[:1]
    if not chosen:
        raise Unusable(f"{options.file}: there is no group {options.group!r}; known are {', '.join(names)}")
    if options.json:
        return _print_json({i: {
            "name": names[i], "mass": {"unit": "kg", "value": known[i].mass},
            "centre": {"unit": "m", "value": known[i].centre.tolist()},
            "inertia": {"unit": "kg m2", "value": known[i].inertia.tolist()},
        } for i in chosen})  # fmt: skip
    units = result.document.units
    for i in chosen:
        m = known[i]
        centre = ", ".join(display(float(c), "length", units.length) for c in m.centre)
        print(
            f"{names[i]}: {display(m.mass, 'mass', units.mass)}, centre of gravity at the start of the cycle ({centre})"
        )
    return 0


def _balance(options: argparse.Namespace) -> int:
    result = _solved(options.file, options.unit)
    report = views.balance(result)
    if options.json:
        return _print_json(dict(report))
    for r in report["rotors"]:
        print(f"{r['name']} ({r['parts']})")
        for label, words in r["rows"]:
            print(f"  {label}: {words}")
        for plane in r["planes"]:
            print(f"  {plane['name']}: {plane['words']}; {plane['mend']}")
    shakes = report["shaking"]
    if shakes is not None:
        print(f"The frame is shaken by {shakes['words']}")
        print(f"and turned about its centre of gravity by {shakes['moment']}")
        for words in shakes["mend"]:
            print(f"  {words}")
    return 0


def _data(options: argparse.Namespace) -> int:
    from uhrwerk.store import backed_up, faults

    folder = options.data or Settings().data
    database = folder / "uhrwerk.db"
    if not database.exists():
        raise Unusable(f"{folder}: there is no database in it")
    try:
        wrong = faults(database)
        print("\n".join(wrong) or f"{database}: sound, {database.stat().st_size / 1e6:.1f} MB")
        if options.copy is not None:
            backed_up(database, options.copy)
            print(f"{options.copy}: written")
    except (OSError, sqlite3.Error) as error:
        raise Unusable(f"{database}: {error}") from error
    return int(bool(wrong))


def _serve(options: argparse.Namespace) -> int:
    from uhrwerk.web.server import serve

    options_set = {
        k: v for k, v in (("host", options.host), ("port", options.port), ("data", options.data)) if v is not None
    }
    try:
        settings = Settings(**options_set)
    except ValueError as error:
        raise Unusable(f"settings: {error}") from error
    if options.demo and options.data is None:
        settings = settings.model_copy(update={"data": settings.data / "demo"})
    return serve(settings, demo=options.demo, fresh=options.demo and options.fresh)


if __name__ == "__main__":
    sys.exit(main())
