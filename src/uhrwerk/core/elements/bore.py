"""Round holes and pins, as several elements have them."""

from __future__ import annotations

from uhrwerk.core.field import Length, Model, Size


class Bore(Model):
    """A through bore with its centre in the part's own plane."""

    x: Length = "0 mm"
    y: Length = "0 mm"
    diameter: Size = "6 mm"


class Post(Bore):
    """A round post or pin standing on a face."""

    height: Size = "12 mm"
