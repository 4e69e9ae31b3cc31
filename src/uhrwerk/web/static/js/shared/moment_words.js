// The moment of the cycle in words: by the input where the cycle is no full turn of it, else in degrees of the cycle.

// the value of a lane at a moment, s
export function valueAt(lane, time) {
  const { points } = lane;
  const k = Math.max(
    1,
    points.findIndex((p) => p[0] >= time),
  );
  const [a, b] = [points[k - 1], points[k] || points[k - 1]],
    long = b[0] - a[0];
  return long > 0 ? a[1] + ((time - a[0]) / long) * (b[1] - a[1]) : b[1];
}

// how far an input that goes to and fro has come on its way at a moment, s, and all of its way: {now, all}
function travelled(lane, time) {
  let now = 0,
    all = 0;
  for (let k = 1; k < lane.points.length; k++) {
    const [[t0, v0], [t1, v1]] = [lane.points[k - 1], lane.points[k]];
    all += Math.abs(v1 - v0);
    if (t1 <= time) now += Math.abs(v1 - v0);
    else if (t0 < time) now += Math.abs(v1 - v0) * ((time - t0) / (t1 - t0));
  }
  // the programme says its corners exactly, the points stand between them
  const stated = (lane.segments || []).reduce((sum, s) => sum + Math.abs(s.to - s.start), 0);
  const more = stated > all && all > 0 ? stated / all : 1;
  return { now: now * more, all: all * more };
}

// how far the first input has come at a part of what is reached, and how far it goes: {now, all, unit}; of one that follows a
// programme the degrees of the cycle, by which that is stated, or with `way` how far it has gone to and fro
export function clock(view, part, way = false) {
  const inputs = view.lanes.filter((l) => l.kind === "input" && l.points.length > 1);
  const lane = inputs.find((l) => l.steady) || (way ? inputs[0] : undefined);
  const whole = { now: 360 * view.reached * part, all: 360, unit: "°" };
  if (!lane) return whole;
  if (!lane.steady) {
    const { now, all } = travelled(lane, part * view.duration);
    if (all < 1e-9) return whole;
    return { now, all: all / view.reached, unit: lane.unit === "deg" ? "°" : lane.unit };
  }
  const first = lane.points[0][1],
    all = (lane.points.at(-1)[1] - first) / view.reached;
  const turns = lane.unit === "°" || lane.unit === "deg" ? Math.abs(all) / 360 : 0;
  if (turns > 0.5 && Math.abs(turns - Math.round(turns)) < 1e-6) return whole;
  if (Math.abs(all) < 1e-9) return whole;
  const unit = lane.unit === "deg" ? "°" : lane.unit;
  return { now: valueAt(lane, part * view.duration) - first, all, unit };
}

const spaced = (unit) => (unit === "°" ? "°" : ` ${unit}`);

export function momentWords(view, part) {
  if (!view.duration) return "";
  const { now, all, unit } = clock(view, part, true),
    seconds = view.duration / view.reached;
  const way = `${now.toFixed(1)}${spaced(unit)} of ${Number(all.toFixed(1))}${spaced(unit)}`;
  return `${way} · ${(part * view.duration).toFixed(3)} of ${seconds.toFixed(3)} s`;
}

export function atWords(view, part) {
  const { now, unit } = clock(view, part);
  return `${now.toFixed(1)}${spaced(unit)}`;
}
