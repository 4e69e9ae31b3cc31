"""The report: an evaluated mechanism on paper."""

from uhrwerk.core.report.blocks import Block, Chart, Figure, Report, Section, Table, Words
from uhrwerk.core.report.contents import contents
from uhrwerk.core.report.junit import as_junit
from uhrwerk.core.report.pdf import as_pdf

__all__ = ["Block", "Chart", "Figure", "Report", "Section", "Table", "Words", "as_junit", "as_pdf", "contents"]
