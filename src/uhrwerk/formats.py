"""All formats of files, with those that show what a page shows."""

from __future__ import annotations

from uhrwerk.core.exchange import FORMATS
from uhrwerk.core.exchange.format import Format
from uhrwerk.core.player import as_page

FORMATS.register(Format(".html", "Motion to play", "text/html; charset=utf-8", write=as_page, whole=True))

__all__ = ["FORMATS"]
