// A layer on the bed, and the findings beside the slider, as SVG.

export const TITLES = {
  narrow: "Narrow gap",
  unparted: "No layer between",
  overhang: "Overhang",
  island: "Starts in the air",
  void: "Void",
};
// of a drawing, in parts of its larger side
const MARGIN = 0.04;
const RING = 0.018;
// lines of the bed, mm
const GRID = 10;

/** @param {number} v */
const n = (v) => +v.toFixed(4);

/**
 * The regions of a layer in the tones of their parts, seen from above, with a ring round each finding of this layer.
 * @param {{box: number[], parts: {id: string, colour: string}[], findings: any[]}} result
 * @param {{layer: number, parts: {id: string, path: string}[]}} layer
 */
export function bedDrawing(result, layer) {
  const [x0, y0, x1, y1] = result.box;
  const size = Math.max(x1 - x0, y1 - y0);
  const edge = size * MARGIN;
  const tone = Object.fromEntries(result.parts.map((p) => [p.id, p.colour]));
  const here = result.findings.filter((f) => f.first <= layer.layer && layer.layer <= f.last);
  const failing = new Set(here.filter((f) => f.fails).flatMap((f) => f.parts));
  const regions = layer.parts
    .map(
      (p) =>
        `<path class="${failing.has(p.id) ? "fails" : ""}" d="${p.path}" fill="${tone[p.id]}" fill-rule="evenodd"/>`,
    )
    .join("");
  const rings = here
    .map((f) => {
      const [x, y] = f.place;
      return `<circle class="${f.fails ? "fails" : "notes"}" cx="${n(x)}" cy="${n(y)}" r="${n(size * RING)}"/>`;
    })
    .join("");
  const view = [x0 - edge, -y1 - edge, x1 - x0 + 2 * edge, y1 - y0 + 2 * edge].map(n).join(" ");
  return (
    `<svg viewBox="${view}" preserveAspectRatio="xMidYMid meet"><g transform="scale(1 -1)">` +
    `<path class="grid" d="${grid(x0 - edge, y0 - edge, x1 + edge, y1 + edge)}"/>${regions}${rings}</g></svg>`
  );
}

/** @param {number} x0 @param {number} y0 @param {number} x1 @param {number} y1 */
function grid(x0, y0, x1, y1) {
  let d = "";
  for (let x = Math.ceil(x0 / GRID) * GRID; x <= x1; x += GRID) d += `M${n(x)} ${n(y0)}V${n(y1)}`;
  for (let y = Math.ceil(y0 / GRID) * GRID; y <= y1; y += GRID) d += `M${n(x0)} ${n(y)}H${n(x1)}`;
  return d;
}

/**
 * Bars beside the slider, for the layers of each finding; in a box of 20 by 100, the bed at its foot.
 * @param {{count: number, findings: any[]}} result
 */
export function findingMarks(result) {
  const layer = 100 / Math.max(1, result.count);
  return result.findings
    .map((f) => {
      const height = Math.max(0.6, (f.last - f.first + 1) * layer);
      const top = 100 - f.first * layer - height;
      return `<rect class="${f.fails ? "fails" : "notes"}" x="${f.fails ? 0 : 11}" y="${n(top)}" width="9" height="${n(height)}"/>`;
    })
    .join("");
}
