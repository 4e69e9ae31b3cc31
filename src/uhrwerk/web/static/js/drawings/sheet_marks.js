// What the pointer meets on a sheet: sizes that can be grabbed, and places that sizes can be taken from.
import { el } from "../shared/svg.js";

// half the length of the bar by which a face is pointed at, and the radius for a point, mm on the sheet
const BAR = 5;
const POINT = 1.6;

/** A place as a path on the sheet, y down. @param {{x: number, y: number, known: string}} spot @param {number} height */
export function spotPath({ x, y, known }, height) {
  const at = height - y;
  if (known === "across") return `M${x} ${at - BAR}V${at + BAR}`;
  if (known === "upright") return `M${x - BAR} ${at}H${x + BAR}`;
  return `M${x - POINT} ${at}a${POINT} ${POINT} 0 1 0 ${2 * POINT} 0a${POINT} ${POINT} 0 1 0 ${-2 * POINT} 0`;
}

/**
 * Along which direction two places have a distance: where both do, the longer one; null where there is none.
 * @param {{x: number, y: number, known: string, view: string}} a
 * @param {{x: number, y: number, known: string, view: string}} b
 */
export function alongOf(a, b) {
  if (a.view !== b.view) return null;
  const fits = (kind) => [a, b].every((s) => s.known === "both" || s.known === kind);
  const far = { across: Math.abs(a.x - b.x), upright: Math.abs(a.y - b.y) };
  const kinds = ["across", "upright"].filter((k) => fits(k) && far[k] > 1e-6);
  return kinds.sort((one, other) => far[other] - far[one])[0] ?? null;
}

/** By how much a size moves, mm on paper, where the pointer has gone by so much, y up: a distance only square to its line. */
export function movedBy(kind, right, up) {
  const whole = (v) => Math.round(v * 2) / 2;
  return { right: kind === "across" ? 0 : whole(right), up: kind === "upright" ? 0 : whole(up) };
}

/** Makes the sizes of a sheet reachable, and adds the places. @param {SVGElement} svg @param {any} sheet */
export function furnish(svg, sheet) {
  svg.setAttribute("aria-label", `Sheet: ${sheet.stated.name}`);
  // points above faces: their bars are longer
  for (const s of [...sheet.spots].sort((a, b) => Number(a.known === "both") - Number(b.known === "both"))) {
    const spot = el("g", { class: "spot", "data-view": s.view, "data-datum": s.datum }, svg);
    el("title", {}, spot, s.label);
    const d = spotPath(s, sheet.height);
    el("path", { d, class: "reach" }, spot);
    el("path", { d }, spot);
  }
  // drawings on cards have looks of their own for a dimension
  for (const group of svg.querySelectorAll(".dimension")) group.setAttribute("class", "stated");
  for (const size of sheet.sizes) {
    const group = svg.querySelector(`.stated[data-key="${size.key}"]`);
    if (!group) continue;
    group.setAttribute("class", "size");
    for (const [name, value] of [
      ["tabindex", "0"],
      ["role", "button"],
      ["aria-label", size.words],
    ])
      group.setAttribute(name, value);
    // by its line, the first of its strokes: extension lines run over places
    const [, line] = group.querySelector("path").getAttribute("d").split("M");
    group.prepend(el("path", { class: "reach", d: `M${line}` }));
    svg.append(group); // above the places
  }
}
