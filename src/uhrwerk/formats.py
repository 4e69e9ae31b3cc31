"""All formats of files, with those that show what a page shows."""

from __future__ import annotations

from uhrwerk.core.exchange import FORMATS
from uhrwerk.core.exchange.format import Chosen, Format
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.player import as_page
from uhrwerk.core.report.drawn import figure_svg
from uhrwerk.core.report.stills import scheme_figure
from uhrwerk.core.stages.evaluation import Evaluation


def _scheme(e: Evaluation, _: Chosen) -> bytes:
    figure = scheme_figure(e)
    if figure is None:
        raise ValidationFailed(("mechanism", "it has no links and joints to draw yet"))
    return figure_svg(figure).encode()


FORMATS.register(Format(".html", "Motion to play", "text/html; charset=utf-8", write=as_page, whole=True))
FORMATS.register(
    Format(".scheme.svg", "Scheme: links, joints, pitch circles", "image/svg+xml", write=_scheme, whole=True)
)

__all__ = ["FORMATS"]
