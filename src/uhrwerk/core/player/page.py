"""The player as one page: markup, style and script beside this file, and what it shows as data that no markup can leave."""

from __future__ import annotations

import json
import re
from html import escape
from pathlib import Path

from uhrwerk.core.exchange.format import Chosen
from uhrwerk.core.player.contents import contents
from uhrwerk.core.stages.evaluation import Evaluation

HERE = Path(__file__).parent


def as_page(e: Evaluation, _: Chosen = Chosen()) -> bytes:
    """One file that opens from disk and asks for nothing else: a policy in its head forbids any request."""
    data = json.dumps(contents(e), separators=(",", ":"), ensure_ascii=True).replace("<", "\\u003c")
    parts = {
        "TITLE": escape(e.document.name),
        "STYLE": (HERE / "player.css").read_text(encoding="utf-8"),
        "SCRIPT": (HERE / "player.js").read_text(encoding="utf-8"),
        "DATA": data,
    }
    page = (HERE / "player.html").read_text(encoding="utf-8")
    # in one pass: what a name says is not filled in again
    return re.sub(r"\[\[([A-Z]+)\]\]", lambda mark: parts[mark[1]], page).encode("utf-8")
