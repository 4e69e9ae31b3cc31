"""Drawings of parts: views, dimensions and a title block on a sheet; written as PDF, SVG and DXF."""

from uhrwerk.core.drafting.part_sheet import TitleBlock, part_sheet
from uhrwerk.core.drafting.sheet import Sheet

__all__ = ["Sheet", "TitleBlock", "part_sheet"]
