"""Where templates and static files lie."""

from __future__ import annotations

from pathlib import Path

from fastapi.templating import Jinja2Templates

HERE = Path(__file__).parent
templates = Jinja2Templates(HERE / "templates")
