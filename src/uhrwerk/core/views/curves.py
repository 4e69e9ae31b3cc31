"""Curves as the page draws them and as a table: values in shown units at the frames, extremes, the path of a point."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from typing_extensions import TypedDict

from uhrwerk.core.curves import SERIES, MeasuredCurve, NotMeasured, PointAcceleration, PointCurve, PointSpeed, Series
from uhrwerk.core.curves.evaluated import evaluated_curve, followed
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.exchange.spreadsheet import comma_separated
from uhrwerk.core.quantity import display, in_unit
from uhrwerk.core.stages.evaluation import Evaluation, Moved


class SeriesShown(TypedDict):
    """A curve, or a derivative of it: values at `times`, in `unit`; where it has none, null. `low` and `high` are the extremes
    with their moments (s), in words too. `estimated`: a difference between frames."""

    name: str
    unit: str
    values: list[float | None]
    low: list[float]
    high: list[float]
    words: str
    estimated: bool


class CurveShown(TypedDict):
    """A curve over the cycle; `why` it cannot be measured, or nothing. `path` are the places of its point, m."""

    id: str
    name: str
    why: str
    times: list[float]
    whole: bool
    series: list[SeriesShown]
    path: list[list[float]]


def curves(e: Evaluation) -> list[CurveShown]:
    """All curves of the document."""
    return [_curve(e, i) for i in e.document.curves]


def _curve(e: Evaluation, i: str) -> CurveShown:
    curve, name = evaluated_curve(e, i), e.document.curves[i].name
    if isinstance(curve, NotMeasured):
        return {"id": i, "name": name, "why": str(curve), "times": [], "whole": True, "series": [], "path": []}
    series = [s for s in SERIES if curve.dimension_of(s)]
    return {
        "id": i, "name": name, "why": "", "times": [float(t) for t in curve.times], "whole": curve.whole,
        "series": [_series(e, curve, s) for s in series], "path": [[float(x) for x in p] for p in _path(e, i)],
    }  # fmt: skip


def unit_of(e: Evaluation, run: MeasuredCurve, series: Series) -> str:
    return e.document.unit_of(run.dimension_of(series))


def display_values(e: Evaluation, run: MeasuredCurve, series: Series) -> list[float | None]:
    """A series in its unit; None where it has no value."""
    dimension, unit = run.dimension_of(series), unit_of(e, run, series)
    return [in_unit(float(v), dimension, unit) if np.isfinite(v) else None for v in run.series[series]]


def _series(e: Evaluation, run: MeasuredCurve, series: Series) -> SeriesShown:
    dimension, unit = run.dimension_of(series), unit_of(e, run, series)
    data: SeriesShown = {
        "name": series, "unit": unit, "values": display_values(e, run, series), "low": [], "high": [], "words": "no value",
        "estimated": series in run.estimated,
    }  # fmt: skip
    try:
        x = run.extremes(series)
    except NotMeasured:
        return data
    data["low"], data["high"] = (
        [x.low_time, in_unit(x.low, dimension, unit)],
        [x.high_time, in_unit(x.high, dimension, unit)],
    )
    low, high = (display(v, dimension, unit) for v in (x.low, x.high))
    data["words"] = f"{low} at {x.low_time:.4g} s, {high} at {x.high_time:.4g} s"
    return data


def _path(e: Evaluation, i: str) -> Array:
    """The places (F, 3) of a curve's point, m; none of other curves."""
    curve = e.document.curves[i]
    if not isinstance(curve, PointCurve | PointSpeed | PointAcceleration) or not isinstance(e.movement, Moved):
        return np.zeros((0, 3))
    f = followed(e, e.movement)
    return f.point(curve.at).v[f.frames]


def table(e: Evaluation, chosen: Sequence[str] = ()) -> str:
    """Curves as comma-separated values: a row a frame, units in the heads. Curves that are followed for a shorter time end there."""
    runs = {i: r for i in (chosen or e.document.curves) if isinstance(r := evaluated_curve(e, i), MeasuredCurve)}
    times = max((r.times for r in runs.values()), key=len, default=np.zeros(0))
    columns = [(i, r, s) for i, r in runs.items() for s in SERIES if r.dimension_of(s)]
    heads = [f"{i}{'' if s == 'value' else f' {s}'} ({unit_of(e, r, s) or '1'})" for i, r, s in columns]
    values = [display_values(e, r, s) for _, r, s in columns]
    return comma_separated([["time (s)", *heads], *([t, *(v[at] for v in values)] for at, t in enumerate(times))])
