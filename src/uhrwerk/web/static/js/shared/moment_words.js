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

// how far the first input has come at a part of what is reached, and how far it goes: {now, all, unit}
export function clock(view, part) {
  const lane = view.lanes.find((l) => l.kind === "input" && l.steady && l.points.length > 1);
  const whole = { now: 360 * view.reached * part, all: 360, unit: "°" };
  if (!lane) return whole;
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
  const { now, all, unit } = clock(view, part),
    seconds = view.duration / view.reached;
  const way = `${now.toFixed(1)}${spaced(unit)} of ${Number(all.toFixed(1))}${spaced(unit)}`;
  return `${way} · ${(part * view.duration).toFixed(3)} of ${seconds.toFixed(3)} s`;
}

export function atWords(view, part) {
  const { now, unit } = clock(view, part);
  return `${now.toFixed(1)}${spaced(unit)}`;
}
