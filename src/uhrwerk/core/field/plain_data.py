"""A value in plain data, by the path that a refusal or a command names."""

from __future__ import annotations

from typing import Any


def put(data: Any, path: str, value: Any) -> None:
    """Sets one value of dictionaries and lists within one another, by its path, such as `parts.rocker.element.width`."""
    *steps, last = path.split(".")
    for step in steps:
        data = data[int(step)] if isinstance(data, list) else data[step]
    data[int(last) if isinstance(data, list) else last] = value
