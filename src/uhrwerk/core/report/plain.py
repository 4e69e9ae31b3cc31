"""Text that may come from anywhere, for paper: no sign that a printed page or an XML file cannot hold."""

from __future__ import annotations

import unicodedata


def plain(text: str) -> str:
    """Text without control characters; what is left out is a space."""
    return "".join(" " if unicodedata.category(c) in ("Cc", "Cf", "Cs", "Co", "Cn") else c for c in text)
