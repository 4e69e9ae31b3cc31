"""Writes lint/page.d.ts: the state of the workspace as one type, read off the modules that add to it.

python docs/page_state.py
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parent.parent
TARGET = ROOT / "lint/page.d.ts"
SCRIPTS = ROOT / "src/uhrwerk/web/static/js"
HEAD = """// Made from the scripts by docs/page_state.py; a test holds it to that.
//
// The state of a workspace, and what can be done with it: `this` in each module that adds to it. A field has the type of
// its first value, or the one that is stated beside it.

type Page = typeof import("../src/uhrwerk/web/static/js/shared/page_state.js").page;

interface Window {
  Alpine: any;
}

interface Workspace {
  $el: HTMLElement;
  $watch(name: string, then: (value: any) => void): void;
"""
START = "return /** @satisfies {ThisType<Workspace>} */ ({\n"
STATED = re.compile(r"^    /\*\* @type \{(.*)\} \*/ ?(?:(\w+):.*)?$")
MEMBER = re.compile(r"^    (?:(get) |async )?(\w+)(\(|:|,)(?: (.*))?")


def members(script: Path) -> Iterator[str]:
    """What a module adds, each as a member of an interface."""
    text = script.read_text(encoding="utf-8")
    for part in text.split(START)[1:]:
        stated = ""
        for line in part.partition("\n  });")[0].splitlines():
            if m := STATED.match(line):
                stated = m[1]
                if m[2]:
                    yield f"{m[2]}: {stated};"
                    stated = ""
                continue
            if not (m := MEMBER.match(line)):
                continue
            getter, name, mark, value = m.groups()
            if getter:
                yield f"readonly {name}: {stated or 'any'};"
            elif mark == "(":
                yield f"{name}(...given: any[]): any;"
            else:
                yield f"{name}: {stated or _type(value or '')};"
            stated = ""


def _type(value: str) -> str:
    """The type of a field with a first value."""
    if value.startswith(('"', "`")):
        return "string"
    if value.startswith(("true", "false")):
        return "boolean"
    if re.match(r"-?\d", value):
        return "number"
    return "any[]" if value.startswith("[") else "any"


def text() -> str:
    out = HEAD
    for script in sorted(SCRIPTS.glob("*/*.js")):
        if own := list(members(script)):
            out += f"\n  // {script.relative_to(SCRIPTS).as_posix()}\n" + "".join(f"  {line}\n" for line in own)
    return out + "}\n"


if __name__ == "__main__":
    TARGET.write_text(text(), encoding="utf-8")
