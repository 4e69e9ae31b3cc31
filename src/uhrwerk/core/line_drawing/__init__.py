"""Line drawings: solids as their edges, without what lies hidden, on paper."""

from uhrwerk.core.line_drawing.eye import VIEWS, Eye
from uhrwerk.core.line_drawing.picture import Picture, Shown, picture
from uhrwerk.core.line_drawing.png import as_png
from uhrwerk.core.line_drawing.svg import as_svg

__all__ = ["VIEWS", "Eye", "Picture", "Shown", "as_png", "as_svg", "picture"]
