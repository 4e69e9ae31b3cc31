"""Writes docs/architecture.md: the stages, the way imports go, and every module by the first sentence of its own words.

python docs/architecture.py
"""

from __future__ import annotations

import ast
import itertools
import re
import tomllib
from pathlib import Path

ROOT = Path(__file__).parent.parent
SOURCE = ROOT / "src/uhrwerk"
SCRIPTS = SOURCE / "web/static/js"

HEAD = """# Architecture

Made from the code by `docs/architecture.py`; a test holds it to that.

## One sentence
A **document** states what the designer wants; a chain of pure functions turns it into solids, an assembly, a motion and verdicts; the
store keeps every revision of the document; the web shows it all and sends commands back.

```
            ┌───────── command ◀── remedy · search · designer ◀────────┐
            ▼                                                          │
        document ──▶ compiled ──▶ moved ──▶ built ──▶ swept ──▶ judged ┘
        core/document  assembly     motion     solids   proximity  requirements
                                               balance  forces, curves
```

`core/evaluation/evaluator.py` carries a document through these stages. Each keeps its results by a hash of exactly what it reads, so
that an edit computes again only what it touches. Solids are built in worker processes (`solids/kernel_pool.py`), pairs of bodies are
swept in others (`proximity/sweep_pool.py`); either may crash or hang without harm to the server.

## Which way imports go
From top to bottom only; a contract in `pyproject.toml` holds it, and there is no circle between files.

"""

PAGE = """
## The page
Jinja renders each page; Alpine holds its state; the server computes. One folder a pane:

"""


def _first_sentence(text: str) -> str:
    line = " ".join(text.split("\n\n")[0].split())
    return re.split(r"(?<=[.!?])\s", line + " ", maxsplit=1)[0].strip()


def _modules(folder: Path) -> list[str]:
    out = []
    for file in sorted(folder.rglob("*.py")):
        doc = ast.get_docstring(ast.parse(file.read_text(encoding="utf-8")))
        if doc and file.name not in ("__init__.py", "__main__.py") and "migrations/versions" not in file.as_posix():
            out.append(f"- `{file.relative_to(folder).with_suffix('').as_posix()}` {_first_sentence(doc)}")
    return out


def _scripts(folder: Path) -> list[str]:
    out = []
    for file in sorted(folder.glob("*.js")):
        lines = itertools.takewhile(lambda line: line.startswith("//"), file.read_text(encoding="utf-8").splitlines())
        words = " ".join(line.removeprefix("//").strip() for line in lines)
        out.append(f"- `{file.stem}` {_first_sentence(words)}")
    return out


def text() -> str:
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["tool"]["importlinter"][
        "contracts"
    ]
    layers = next(c["layers"] for c in contracts if c["type"] == "layers")
    out = [HEAD, "`web` and the command line reach the core by `views`, `edit` and `evaluation`.\n"]
    for layer in layers:
        path = SOURCE / "core" / layer
        package = path.is_dir()
        doc = ast.get_docstring(
            ast.parse((path / "__init__.py" if package else path.with_suffix(".py")).read_text("utf-8"))
        )
        out.append(f"### {layer}\n{_first_sentence(doc or '')}\n")
        out += _modules(path) if package else []
        out.append("")
    for name in ("store", "web", "demo"):
        out += [f"### {name}", *_modules(SOURCE / name), ""]
    out.append(PAGE)
    for folder in sorted(f for f in SCRIPTS.iterdir() if f.is_dir()):
        out += [f"### js/{folder.name}", *_scripts(folder), ""]
    return "\n".join(out).rstrip() + "\n"


if __name__ == "__main__":
    (Path(__file__).parent / "architecture.md").write_text(text(), encoding="utf-8")
