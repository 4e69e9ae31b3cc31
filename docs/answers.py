"""Writes lint/answers.d.ts: what each call of the API answers, as types for the checker of the page's scripts.

python docs/answers.py
"""

from __future__ import annotations

import re
import tempfile
from pathlib import Path
from typing import Any

from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.store import Store
from uhrwerk.web.app import create_app

TARGET = Path(__file__).parent.parent / "lint/answers.d.ts"
HEAD = """// Made from the API's own description by docs/answers.py; a test holds it to that.

"""
PLAIN = {"string": "string", "integer": "number", "number": "number", "boolean": "boolean", "null": "null"}


def type_of(schema: dict[str, Any]) -> str:
    """A JSON schema as a TypeScript type."""
    if "$ref" in schema:
        return "Api." + _name(schema["$ref"].rpartition("/")[2])
    for several in ("anyOf", "oneOf"):
        if several in schema:
            return " | ".join(sorted({type_of(s) for s in schema[several]}))
    if "enum" in schema or "const" in schema:
        return " | ".join(f'"{v}"' if isinstance(v, str) else str(v) for v in schema.get("enum", [schema.get("const")]))
    kind = schema.get("type")
    if kind == "array":
        if "prefixItems" in schema:
            return "[" + ", ".join(type_of(s) for s in schema["prefixItems"]) + "]"
        return f"Array<{type_of(schema.get('items', {}))}>"
    if kind == "object" and "properties" in schema:
        return _object(schema)
    if kind == "object":
        more = schema.get("additionalProperties", True)
        return f"Record<string, {type_of(more) if isinstance(more, dict) else 'any'}>"
    return PLAIN.get(kind, "any") if isinstance(kind, str) else "any"


def _object(schema: dict[str, Any]) -> str:
    return "{ " + " ".join(f"{name}: {type_of(s)};" for name, s in schema["properties"].items()) + " }"


def _name(name: str) -> str:
    return re.sub(r"\W", "_", name)


def _answered(operation: dict[str, Any]) -> str:
    for status, answer in operation["responses"].items():
        if status.startswith("2"):
            content = answer.get("content", {}).get("application/json")
            return type_of(content["schema"]) if content else "null"
    return "any"


def answers(api: dict[str, Any]) -> str:
    """The types of an OpenAPI description: its models, and what a method and a path answer."""
    models = "".join(
        f"  type {_name(name)} = {_object(s) if 'properties' in s else type_of(s)};\n"
        for name, s in sorted(api["components"]["schemas"].items())
        if "Input" not in name
    )
    cases = []
    for path, operations in api["paths"].items():
        pattern = re.sub(r"\{[^}]*\}", "${string}", path)
        for method, operation in operations.items():
            cases.append((method.upper(), pattern, _answered(operation)))
    # the longest first: a shorter one that ends in a name takes whatever follows
    cases.sort(key=lambda c: (-c[1].count("/"), c[1].count("$"), c[1], c[0]))
    lines = "".join(f'  : [M, P] extends ["{m}", `{p}` | `{p}?${{string}}`] ? {a}\n' for m, p, a in cases)
    return f"{HEAD}declare namespace Api {{\n{models}}}\n\n/** What a call answers. */\ntype Answer<M extends string, P extends string> =\n  M extends never ? never\n{lines}  : any;\n"


def description() -> dict[str, Any]:
    """The OpenAPI description of the application."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder) / "u.db")
        try:
            return create_app(store, Evaluator()).openapi()
        finally:
            store.close()


def text() -> str:
    return answers(description())


if __name__ == "__main__":
    TARGET.write_text(text(), encoding="utf-8")
