"""The jobs that worker processes of the kernel can do. Only they import this module."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from uhrwerk.core.solids import exact_measures
from uhrwerk.core.solids.kernel import Kernel
from uhrwerk.core.solids.recipe import Recipe, Step


def jobs(kernel: Kernel) -> dict[str, Callable[..., Any]]:
    """Every job by its name; bodies are handed over as their steps."""

    def distance(a: list[Step], faces_a: list[int], pose_a: Any, b: list[Step], faces_b: list[int], pose_b: Any) -> Any:
        return exact_measures.distance(kernel.shape(a), faces_a, pose_a, kernel.shape(b), faces_b, pose_b)

    def common_volume(a: list[Step], pose_a: Any, b: list[Step], pose_b: Any) -> float:
        return exact_measures.common_volume(kernel.shape(a), pose_a, kernel.shape(b), pose_b)

    def reach(recipe: Recipe, pose: Any, direction: list[float]) -> float:
        return exact_measures.reach([kernel.shape(body["steps"]) for body in recipe["bodies"]], pose, direction)

    def circle_crossings(steps: list[Step], radius: float, z: float) -> list[float]:
        return exact_measures.circle_crossings(kernel.shape(steps), radius, z)

    def step_file(*arguments: Any) -> bytes:
        from uhrwerk.core.solids.step_file import step_file  # half a second to import, and seldom asked

        return step_file(kernel, *arguments)

    def profile(recipe: Recipe) -> list[Any]:
        from uhrwerk.core.solids.profile import profile  # seldom asked

        return list(profile([kernel.shape(body["steps"]) for body in recipe["bodies"]]))

    def hidden_lines(recipe: Recipe, views: list[tuple[Any, ...]]) -> list[Any]:
        from uhrwerk.core.solids.hidden_lines import hidden_lines  # seldom asked

        shapes = [kernel.shape(body["steps"]) for body in recipe["bodies"]]
        return [hidden_lines(shapes, *view) for view in views]

    def outline_views(standing: list[tuple[Recipe, Any]], directions: list[Any]) -> list[Any]:
        from uhrwerk.core.solids.hidden_lines import outline_views  # seldom asked

        shapes = [
            exact_measures.posed(kernel.shape(body["steps"]), pose)
            for recipe, pose in standing
            for body in recipe["bodies"]
        ]
        return outline_views(shapes, directions)

    def section(recipe: Recipe, plane: tuple[Any, ...]) -> list[Any]:
        from uhrwerk.core.solids.sections import section  # seldom asked

        return [face for body in recipe["bodies"] for face in section(kernel.shape(body["steps"]), *plane)]

    return {
        "hidden_lines": hidden_lines,
        "section": section,
        "outline_views": outline_views,
        "build": kernel.build,
        "distance": distance,
        "common_volume": common_volume,
        "reach": reach,
        "circle_crossings": circle_crossings,
        "step_file": step_file,
        "profile": profile,
    }
