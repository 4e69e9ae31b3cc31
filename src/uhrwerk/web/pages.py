"""Where templates and static files lie, and how a page finds the edition of these that ships with it.

Static files are served below a path that names their edition, so that a browser keeps them until another one ships.
"""

from __future__ import annotations

import hashlib
import re
from functools import cache
from pathlib import Path

from fastapi.staticfiles import StaticFiles
from fastapi.templating import Jinja2Templates
from starlette.responses import Response

HERE = Path(__file__).parent
STATIC = HERE / "static"

_IMPORTED = re.compile(r'^(?:import|export)\b[^"\n]*(?:\n[^"]*?)??"(\.[^"]+)";', re.MULTILINE)


def edition(folder: Path) -> str:
    """A short name that is another one once any file of a folder, or its name, is."""
    digest = hashlib.sha256()
    for file in sorted(f for f in folder.rglob("*") if f.is_file()):
        digest.update(file.relative_to(folder).as_posix().encode() + b"\0" + file.read_bytes() + b"\0")
    return digest.hexdigest()[:12]


SHIPPED = f"/static/{edition(STATIC)}"


class CachedFiles(StaticFiles):
    """Files that a browser may keep for good: another edition has another path."""

    def file_response(self, *arguments: object, **more: object) -> Response:
        answer = super().file_response(*arguments, **more)  # type: ignore[arg-type]
        answer.headers["cache-control"] = "public, max-age=31536000, immutable"
        return answer


@cache
def scripts(entry: str) -> tuple[str, ...]:
    """All scripts that one asks for, itself first, as paths below the static files: a page names them all, so that a
    browser need not read one to know of the next."""
    files: dict[Path, None] = {}
    ahead = [STATIC / entry]
    while ahead:
        script = ahead.pop(0)
        if script not in files:
            files[script] = None
            ahead += [
                (script.parent / name).resolve() for name in _IMPORTED.findall(script.read_text(encoding="utf-8"))
            ]
    return tuple(script.relative_to(STATIC).as_posix() for script in files)


templates = Jinja2Templates(HERE / "templates")
templates.env.globals |= {"static": SHIPPED, "scripts": scripts}
