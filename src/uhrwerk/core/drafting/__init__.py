"""Drawings of parts: views, dimensions and a title block on a sheet; written as PDF, SVG and DXF."""

from uhrwerk.core.drafting.part_sheet import part_sheet
from uhrwerk.core.drafting.sheet import Sheet
from uhrwerk.core.drafting.title_block import TitleBlock

__all__ = ["Sheet", "TitleBlock", "part_sheet"]
