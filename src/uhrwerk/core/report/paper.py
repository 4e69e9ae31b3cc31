"""Fonts and tones for paper; reportlab embeds the fonts, as far as their signs are used."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from reportlab.lib.colors import HexColor
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

TEXT, BOLD, NUMBERS = "Commissioner", "Commissioner-SemiBold", "SplineSansMono"
INK, DIM, RULE, FAILS, ACTION = (HexColor(c) for c in ("#22302f", "#5c6a68", "#c9c4b6", "#b3361e", "#1f6f78"))


@cache
def register_fonts() -> None:
    """Makes the fonts known to reportlab, once."""
    folder = Path(__file__).parent.parent / "fonts"
    for name, file in (
        (TEXT, "commissioner-regular"),
        (BOLD, "commissioner-semibold"),
        (NUMBERS, "spline-sans-mono-regular"),
    ):
        pdfmetrics.registerFont(TTFont(name, folder / f"{file}.ttf"))
    pdfmetrics.registerFontFamily(TEXT, normal=TEXT, bold=BOLD, italic=TEXT, boldItalic=BOLD)
