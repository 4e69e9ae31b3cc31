// Where a point that is drawn goes: to what is there, in line with what was drawn, else onto the grid. All in metres on the plane.

const SAME = 1e-9; // m

const apart = (a, b) => Math.hypot(a.x - b.x, a.y - b.y);
const onGrid = (value, grid) => Math.round(value / grid) * grid;

// the foot of a point on a line through two
function foot(p, { a, b }) {
  const dx = b.x - a.x,
    dy = b.y - a.y,
    size = dx * dx + dy * dy;
  const s = ((p.x - a.x) * dx + (p.y - a.y) * dy) / size;
  return { x: a.x + s * dx, y: a.y + s * dy, s };
}

/**
 * The place of a new point, and in words what it went to.
 * @param {{x: number, y: number}} at where the pointer is
 * @param {{points: any[], lines: any[], drawn: any[], grid: number, near: number}} around points {x, y, words} and lines {a, b, words}
 *   that are there, the points drawn so far, the step of the grid, and how near counts as on it
 */
export function snapped(at, { points, lines, drawn, grid, near }) {
  const nearest = [...points].sort((p, q) => apart(at, p) - apart(at, q))[0];
  if (nearest && apart(at, nearest) <= near) return { x: nearest.x, y: nearest.y, words: nearest.words };
  const to = { x: onGrid(at.x, grid), y: onGrid(at.y, grid), words: "" },
    words = [];
  // in line with the last point first, then with those before it
  const before = [...drawn].reverse();
  const beside = before.find((p) => Math.abs(at.x - p.x) <= near),
    level = before.find((p) => Math.abs(at.y - p.y) <= near);
  if (beside) Object.assign(to, { x: beside.x });
  if (level) Object.assign(to, { y: level.y });
  if (beside) words.push("along y");
  if (level) words.push("along x");
  const line = beside && level ? null : lines.find((l) => apart(at, foot(at, l)) <= near && within(foot(at, l).s));
  if (line) {
    const on = crossing(line, beside && to.x, level && to.y) || foot(at, line);
    return { x: on.x, y: on.y, words: [line.words, ...words].join(", ") };
  }
  return { ...to, words: words.join(", ") };
}

const within = (s) => s > -0.02 && s < 1.02;

// where a line is at a given x, or a given y
function crossing({ a, b }, x, y) {
  if (typeof x === "number" && Math.abs(b.x - a.x) > SAME)
    return { x, y: a.y + ((x - a.x) * (b.y - a.y)) / (b.x - a.x) };
  if (typeof y === "number" && Math.abs(b.y - a.y) > SAME)
    return { x: a.x + ((y - a.y) * (b.x - a.x)) / (b.y - a.y), y };
  return null;
}

// a point so far from another, towards a third
export function towards(from, to, far) {
  const size = apart(from, to);
  if (size < SAME) return { x: from.x + far, y: from.y };
  return { x: from.x + ((to.x - from.x) * far) / size, y: from.y + ((to.y - from.y) * far) / size };
}

// whether a point lies within closed lines of points [x, y]; within a loop inside a loop it does not
export function inside(point, loops) {
  let odd = false;
  for (const loop of loops)
    for (let i = 0, j = loop.length - 1; i < loop.length; j = i++) {
      const [xi, yi] = loop[i],
        [xj, yj] = loop[j];
      if (yi > point.y !== yj > point.y && point.x < ((xj - xi) * (point.y - yi)) / (yj - yi) + xi) odd = !odd;
    }
  return odd;
}
