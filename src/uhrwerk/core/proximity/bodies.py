"""The bodies of placed parts as checks see them: built solids as forms, with the usual triangles or fine ones."""

from __future__ import annotations

from functools import partial

from uhrwerk.core.cache import Kept
from uhrwerk.core.proximity.body_geometry import Form, Shape
from uhrwerk.core.solids import Body, BuildFailed, Recipe, Workshop

#: triangles of all forms kept for checks: about a kilobyte each with their boxes
MOST_TRIANGLES = 120_000
#: triangles that settle what the usual ones leave open stray so far from curved faces, m
FINE = 1e-6


class Bodies:
    """Forms by the key of their solid, kept while they weigh little enough."""

    def __init__(self, workshop: Workshop) -> None:
        self.workshop = workshop
        self._forms: Kept[Form] = Kept(MOST_TRIANGLES, lambda form: len(form.body.triangles))

    def form(self, solid: str, body: Body) -> Form:
        name = f"{solid}/{body.name}"
        return self._forms.get(name, partial(Form, body, name))

    def fine(self, s: Shape, solid: str, recipe: Recipe) -> Form:
        """The body with fine triangles; as it is where they cannot be made."""
        known = self._forms.seen(f"{solid} fine/{s.form.body.name}")  # to look for the solid takes its whole recipe
        if known is not None:
            return known
        try:
            built = self.workshop.build(recipe | {"deviation": FINE})
        except BuildFailed:
            return s.form
        if built.failed is not None:  # finer triangles of another shape
            return s.form
        return self.form(f"{solid} fine", built.bodies[s.form.body.name])
