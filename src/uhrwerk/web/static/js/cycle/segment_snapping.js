// Where a segment of a programme lies on its lane, and where its corner goes when it is drawn: whole degrees, another lane's
// corner that is near, round values.

const NEAR = 5; // pixels within which a corner takes the place of another lane's

// values are drawn in such steps of a lane's unit
export const STEPS = { deg: 1, mm: 0.5, cm: 0.05, m: 0.0005, in: 0.02 };

// a place of a segment on the chart, 0 to 360 degrees of the cycle
export const degrees = (lane, at) => (((lane.begins + at) % 360) + 360) % 360;
export const end = (lane, s) => degrees(lane, s.end) || (s.end ? 360 : 0);

// where a segment lies on the chart, degrees: two stretches where it runs over the end of the cycle
export function stretches(lane, s) {
  if (s.end - s.begin < 1e-9) return [];
  const from = degrees(lane, s.begin),
    to = from + s.end - s.begin;
  return to > 360 + 1e-9
    ? [
        [from, 360],
        [0, to - 360],
      ]
    : [[from, Math.min(360, to)]];
}

/**
 * Where the corner at the end of a segment goes.
 * @param {{begins: number, unit: string}} lane
 * @param {{begin: number, end: number, to: number, loose: string[]}} s
 * @param {{deg: number, value: number}} by degrees of the cycle and values that it is drawn by
 * @param {{marks?: number[], place?: (deg: number) => number}} snap corners of other lanes, degrees, and where they lie, px
 */
export function drawnTo(lane, s, by, { marks = [], place = (deg) => deg } = {}) {
  const step = STEPS[lane.unit] || 1;
  let until = s.end;
  if (s.loose.includes("over") && by.deg !== 0) {
    until = Math.max(s.begin, s.end + by.deg);
    const here = degrees(lane, until),
      near = marks.find((m) => Math.abs(place(m) - place(here)) < NEAR);
    until = Number((until + (near ?? Math.round(here)) - here).toFixed(9));
  }
  const to = s.loose.includes("to") && by.value !== 0 ? Math.round((s.to + by.value) / step) * step : s.to;
  return { until, to };
}
