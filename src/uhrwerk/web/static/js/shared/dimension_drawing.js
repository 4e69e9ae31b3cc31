// The line drawing of an element: its edges, and its dimensions, each of which leads to its field.
import { json } from "./api.js";

const NS = "http://www.w3.org/2000/svg";
const INK = "#22302f";
const PETROL = "#0e5a61";
const BRASS = "#a8741a";
const FAINT = "#8b938c";
const TALL = 150; // px, of one view at most
const EDGE = 16; // px about the drawing
const ARROW = 6; // px

function el(name, attributes, parent) {
  const node = document.createElementNS(NS, name);
  for (const [k, v] of Object.entries(attributes)) node.setAttribute(k, v);
  parent?.append(node);
  return node;
}

// an arrow head at `tip`, pointing along (u, v)
function arrow(tip, u, v) {
  const [x, y] = tip;
  const [a, b] = [x - ARROW * u, y - ARROW * v];
  return `M${x} ${y}L${a - 2 * v} ${b + 2 * u}L${a + 2 * v} ${b - 2 * u}Z`;
}

function drawDimension(svg, d, to, field, on, onpick) {
  const [p, q] = d.line.map(to);
  const feet = d.of.map(to);
  const long = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
  const [u, v] = [(q[0] - p[0]) / long, (q[1] - p[1]) / long];
  const colour = on ? BRASS : PETROL;
  const g = el("g", { class: "dimension", "data-dimension": d.path, cursor: "pointer" }, svg);
  const drawn = { stroke: colour, "stroke-width": on ? 2 : 1, fill: "none" };
  for (const [k, end] of [p, q].entries()) {
    if (Math.hypot(feet[k][0] - end[0], feet[k][1] - end[1]) > 1)
      el("path", { d: `M${feet[k]}L${end}`, stroke: on ? BRASS : FAINT, "stroke-width": 0.6 }, g);
  }
  el("path", { d: `M${p}L${q}`, ...drawn }, g);
  el("path", { d: arrow(q, u, v) + arrow(p, -u, -v), fill: colour }, g);
  el("path", { d: `M${p}L${q}`, stroke: "transparent", "stroke-width": 12 }, g);
  const steep = Math.abs(v) > 0.9;
  const [x, y] = [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2];
  const at = steep ? { x: x - 4, y, transform: `rotate(-90 ${x - 4} ${y})` } : { x, y: y - 4 };
  const text = el("text", { ...at, "text-anchor": "middle", class: "num", fill: colour }, g);
  text.textContent = `${d.round ? "⌀ " : ""}${field?.value || ""}`;
  el("title", {}, g).textContent = field?.label || d.path;
  g.addEventListener("click", () => onpick(d.path));
}

// views as the server draws them; `fields` by path; `current` is the path of the number that is edited
export function drawViews(svg, views, fields, current, onpick) {
  svg.replaceChildren();
  const width = svg.clientWidth || 262;
  let top = 0;
  for (const view of views) {
    const [x0, y0, x1, y1] = view.box;
    const scale = Math.min((width - 2 * EDGE) / Math.max(x1 - x0, 1e-6), (TALL - 2 * EDGE) / Math.max(y1 - y0, 1e-6));
    const high = (y1 - y0) * scale + 2 * EDGE;
    const left = (width - (x1 - x0) * scale) / 2;
    const base = top + high - EDGE;
    const to = ([x, y]) => [
      Math.round((left + (x - x0) * scale) * 10) / 10,
      Math.round((base - (y - y0) * scale) * 10) / 10,
    ];
    const d = view.edges.map(([a, b, x, y]) => `M${to([a, b])}L${to([x, y])}`).join("");
    el("path", { d, stroke: INK, "stroke-width": 0.8, fill: "none" }, svg);
    const rest = view.dimensions.filter((m) => m.path !== current);
    for (const m of [...rest, ...view.dimensions.filter((m) => m.path === current)])
      drawDimension(svg, m, to, fields.get(m.path), m.path === current, onpick);
    top += high;
  }
  svg.setAttribute("viewBox", `0 0 ${width} ${Math.max(1, Math.round(top))}`);
  svg.setAttribute("height", Math.round(top));
}

// the drawing beside the fields, in the catalogue and on the card
/** @param {Page} page */
export function drawn(page) {
  let views = [];
  let prefix = "";
  let shown = "";
  return /** @satisfies {ThisType<Workspace>} */ ({
    hasDrawing: false,

    showDrawing(selector, answer, idPrefix) {
      views = answer;
      prefix = idPrefix;
      this.hasDrawing = views.length > 0;
      this.redrawDrawing(selector);
    },
    redrawDrawing(selector, current = null) {
      const svg = page.root.querySelector(selector);
      if (!svg) return;
      const fields = new Map((selector.startsWith(".element") ? this.rows : this.card.fields).map((f) => [f.path, f]));
      drawViews(svg, views, fields, current, (path) => {
        const input = document.getElementById(`${prefix}${path}`);
        input?.focus();
        if (input instanceof HTMLInputElement) input.select();
      });
    },
    // the drawing of the selected part stands on its card
    async showCardDrawing() {
      // a part that was just made is drawn once it is evaluated
      const there = page.view.placed.some((p) => p.id === this.partSelected),
        key = there && this.panel === "item" ? `${page.shown} ${this.partSelected}` : "";
      if (key === shown && key) return;
      shown = key;
      if (!key) {
        this.hasDrawing = false;
        return;
      }
      const at = `${page.api}/revisions/${page.shown}/drawings/${this.partSelected}`;
      const answer = await json("GET", at).catch((error) => {
        if (shown === key) this.explain(error);
        return [];
      });
      if (shown === key) this.showDrawing(".card-drawing", answer, "c-");
    },
    // the number that has the focus is marked
    markDimension(selector, e) {
      this.redrawDrawing(selector, e.type === "focusin" ? e.target.dataset?.path : null);
    },
  });
}
