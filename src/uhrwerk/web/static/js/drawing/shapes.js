// What the tools draw, as outlines of the document: a chain of lines and arcs, a circle, a rectangle, a slot.

const SAME = 1e-9; // m
const PER = { mm: 1e3, cm: 1e2, m: 1, in: 1 / 0.0254 };

// a length as a field has it: to a hundredth of a picometre, where it is not for reading alone
export const text = (si, unit, digits = 8) => `${Number((si * PER[unit]).toFixed(digits))} ${unit}`;

// how a piece of a chain ends, as a direction; null where it has no length
export function endOf(a, b) {
  const dx = b.x - a.x,
    dy = b.y - a.y,
    size = Math.hypot(dx, dy);
  if (size < SAME) return null;
  const u = a.bulge || 0,
    c = (1 - u * u) / (1 + u * u),
    s = (2 * u) / (1 + u * u);
  return { x: (c * dx - s * dy) / size, y: (c * dy + s * dx) / size };
}

// the bulge of the arc from a to b that sets out in a direction; null where that would be a whole turn
export function bulgeOf(a, b, way) {
  const dx = b.x - a.x,
    dy = b.y - a.y;
  const half = Math.atan2(way.x * dy - way.y * dx, way.x * dx + way.y * dy);
  return Math.abs(half) > 3 ? null : Math.tan(half / 2);
}

// whether both pieces at a corner run on into one another, one of them an arc at least
function isSmooth(before, p, next) {
  if (!before.bulge && !p.bulge) return false;
  const end = endOf(before, p),
    back = endOf({ ...next, bulge: -(p.bulge || 0) }, p); // the way back ends where the piece begins
  return end && back && Math.abs(end.x * back.y - end.y * back.x) < SAME && end.x * back.x + end.y * back.y < 0;
}

// what a chain keeps of how it was drawn: pieces along x and y, arcs that run on smoothly, lengths that were typed
export function relationsOf(chain) {
  const out = {},
    add = (relation) => {
      out[`r${Object.keys(out).length + 1}`] = relation;
    };
  chain.forEach((p, k) => {
    const next = chain[(k + 1) % chain.length];
    if (!p.bulge && Math.abs(next.y - p.y) < SAME) add({ kind: "level", piece: `c${k + 1}` });
    if (!p.bulge && Math.abs(next.x - p.x) < SAME) add({ kind: "upright", piece: `c${k + 1}` });
    if (isSmooth(chain.at(k - 1), p, next)) add({ kind: "smooth", corner: `c${k + 1}` });
    if (p.typed) add({ kind: "length", piece: `c${k + 1}`, length: p.typed });
  });
  return out;
}

export function traced(chain, unit) {
  const corners = chain.map((p, k) => [
    `c${k + 1}`,
    { x: text(p.x, unit), y: text(p.y, unit), bulge: String(Number((p.bulge || 0).toFixed(12))) },
  ]);
  return { kind: "traced", corners: Object.fromEntries(corners), relations: relationsOf(chain) };
}

// a number with or without a unit, m; null where it is a formula
export function plain(typed, unit) {
  const m = /^\s*([-+]?\d+(?:\.\d+)?)\s*(mm|cm|m|in)?\s*$/.exec(typed || "");
  return m ? Number(m[1]) / PER[m[2] || unit] : null;
}

// the middle between a place and one that lies so far from it as was typed, on the side of another
function midway(a, b, typed, unit) {
  const far = plain(typed, unit);
  if (!typed) return text((a + b) / 2, unit);
  const sign = b < a ? -1 : 1;
  return far === null ? `${text(a, unit)} ${sign < 0 ? "-" : "+"} (${typed}) / 2` : text(a + (sign * far) / 2, unit);
}

// two points, or three of a slot, and what was typed, as an outline
export const SHAPES = {
  circle: ([m, rim], unit, typed) => ({
    kind: "circle",
    diameter: typed[0] || text(2 * Math.hypot(rim.x - m.x, rim.y - m.y), unit),
    x: text(m.x, unit),
    y: text(m.y, unit),
  }),
  rectangle: ([a, b], unit, typed) => ({
    kind: "rectangle",
    length: typed[0] || text(Math.abs(b.x - a.x), unit),
    width: typed[1] || text(Math.abs(b.y - a.y), unit),
    corner: text(0, unit),
    x: midway(a.x, b.x, typed[0], unit),
    y: midway(a.y, b.y, typed[1], unit),
  }),
  slot: ([a, b, side], unit, typed) => {
    const dx = b.x - a.x,
      dy = b.y - a.y,
      long = Math.hypot(dx, dy),
      half = Math.abs((side.x - a.x) * dy - (side.y - a.y) * dx) / long;
    return {
      kind: "slot",
      length: typed[0] || text(long, unit),
      width: typed[1] || text(2 * half, unit),
      x: text((a.x + b.x) / 2, unit),
      y: text((a.y + b.y) / 2, unit),
      turn: `${Number(((Math.atan2(dy, dx) * 180) / Math.PI).toFixed(9))} deg`,
    };
  },
};

// how many points a tool takes, and what is typed over while the next one is drawn
export const TOOLS = {
  line: { name: "Lines and arcs", points: 0, asks: ["Length"] },
  circle: { name: "Circle", points: 2, asks: ["Diameter"] },
  rectangle: { name: "Rectangle", points: 2, asks: ["Length", "Width"] },
  slot: { name: "Slot", points: 3, asks: ["Length", "Width"] },
};

// one more loop: beside what is there it adds, within it it is left open
export function joined(old, fresh, within) {
  const kind = within ? "difference" : "sum";
  if (old.kind === kind) return { ...old, of: { ...old.of, [`n_${Object.keys(old.of).length + 1}`]: fresh } };
  return { kind, of: { a: old, b: fresh } };
}
