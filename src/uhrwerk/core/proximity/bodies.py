"""The bodies of placed parts as checks see them: built solids as forms, with the usual triangles or fine ones."""

from __future__ import annotations

from functools import partial

from uhrwerk.core.cache import Cache
from uhrwerk.core.proximity.body_geometry import BodyGeometry, PlacedBody
from uhrwerk.core.solids import Body, BuildFailed, KernelPool, Recipe

#: triangles of all forms kept for checks: about a kilobyte each with their boxes
MOST_TRIANGLES = 120_000
#: triangles that settle what the usual ones leave open stray so far from curved faces, m
FINE = 1e-6


class Bodies:
    """Forms by the key of their solid, kept while they weigh little enough."""

    def __init__(self, kernel_pool: KernelPool) -> None:
        self.kernel_pool = kernel_pool
        self._forms: Cache[BodyGeometry] = Cache(MOST_TRIANGLES, lambda form: len(form.body.triangles))

    def form(self, solid: str, body: Body) -> BodyGeometry:
        name = f"{solid}/{body.name}"
        return self._forms.get(name, partial(BodyGeometry, body, name))

    def fine(self, s: PlacedBody, solid: str, recipe: Recipe) -> BodyGeometry:
        """The body with fine triangles; as it is where they cannot be made."""
        known = self._forms.peek(f"{solid} fine/{s.form.body.name}")  # to look for the solid takes its whole recipe
        if known is not None:
            return known
        try:
            built = self.kernel_pool.build(recipe | {"deviation": FINE})
        except BuildFailed:
            return s.form
        if built.failed is not None:  # finer triangles of another shape
            return s.form
        return self.form(f"{solid} fine", built.bodies[s.form.body.name])
