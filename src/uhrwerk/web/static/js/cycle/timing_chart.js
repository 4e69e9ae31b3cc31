// The timing chart: lanes over one master cycle. The cursor is the range input above it; a click sets it too.
import { atWords } from "../shared/moment_words.js";
import { el } from "../shared/svg.js";
import { drawSegments } from "./lane_segments.js";

export const LEFT = 176,
  RIGHT = 8;
const FLAT = 1e-5; // what runs within less is drawn as a straight line
const LANE = 30,
  TALL = 112; // of a programme that is being drawn

// a lane's curve of position, velocity or acceleration
function curveOf(l, series) {
  const [values, unit] =
    { velocity: [l.rates, l.rateUnit], acceleration: [l.accelerations, l.accelerationUnit] }[series] || [];
  return values ? { ...l, points: l.points.map((p, k) => [p[0], values[k]]), unit, ratio: "", segments: [] } : l;
}

export function drawLanes(svg, view, selected, onseek, onselect, hand, series) {
  svg.replaceChildren();
  svg.cursor = null;
  const width = svg.clientWidth || svg.parentElement.clientWidth,
    top = 16,
    lanes = view.lanes.map((l) => curveOf(l, series)),
    tall = lanes.map((l) => (l.segments?.length && l.path === selected ? TALL : LANE)),
    height = top + tall.reduce((a, b) => a + b, 0) + 4;
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  svg.setAttribute("height", view.lanes.length ? height : 0);
  if (!view.lanes.length) return;
  const x = (t) => LEFT + (t / view.duration) * (width - LEFT - RIGHT);
  for (let k = 0; k <= 12; k++) {
    const at = x((view.duration * k) / 12);
    el("path", { d: `M${at} ${top - 2}V${height - 4}`, stroke: "#e4dcc8" }, svg);
    if (k % 3 === 0)
      el(
        "text",
        { x: at, y: 10, class: "num", "text-anchor": k === 12 ? "end" : k ? "middle" : "start" },
        svg,
        atWords(view, k / 12).replace(".0", ""),
      );
  }
  lanes.forEach((l, i) => {
    const lane = tall[i],
      y0 = top + tall.slice(0, i).reduce((a, b) => a + b, 0),
      low = y0 + lane - (lane === TALL ? 12 : 4),
      high = y0 + (lane === TALL ? 22 : 4);
    el("path", { d: `M0 ${y0}H${width}`, stroke: "#d9d0ba" }, svg);
    const values = l.points.map((p) => p[1]);
    if (l.band) values.push(l.band[2], l.band[3]);
    const min = l.kind === "requirement" ? 0 : Math.min(...values),
      max = l.kind === "requirement" ? Math.max(l.limit * 3, 1e-9) : Math.max(...values);
    const y = (v) => low - ((Math.min(v, max) - min) / Math.max(FLAT, max - min)) * (low - high);
    const fails = l.holds === false,
      checks = l.kind === "requirement" || l.kind === "wanted",
      path = l.kind === "requirement" ? `requirements.${l.id}` : l.path;
    const label = el(
      "text",
      {
        x: 0,
        y: y0 + (l.kind === "requirement" ? 19 : 13),
        class: fails ? "fails" : "",
        "font-weight": selected === path ? 650 : 450,
      },
      svg,
      (checks ? (fails ? "✕ " : "○ ") : "") + short(l.name),
    );
    el("title", {}, label, l.name);
    label.addEventListener("click", () => onselect(path));
    const line = l.points.map((p, k) => `${k ? "L" : "M"}${x(p[0]).toFixed(1)} ${y(p[1]).toFixed(1)}`).join("");
    if (!l.points.length) return;
    if (l.kind === "requirement") {
      el("path", { d: `${line}L${x(view.duration)} ${low}L${x(0)} ${low}Z`, fill: "#e3ead9" }, svg);
      if (fails)
        for (const run of below(l)) {
          // what is missing: from the curve up to the limit; the whole lane where parts overlap
          const under = run.map((p, k) => `${k ? "L" : "M"}${x(p[0]).toFixed(1)} ${y(p[1]).toFixed(1)}`).join(""),
            up = l.limit ? y(l.limit) : high;
          el("path", { d: `${under}L${x(run.at(-1)[0])} ${up}L${x(run[0][0])} ${up}Z`, fill: "#b5341c" }, svg);
        }
      if (l.limit)
        el(
          "path",
          { d: `M${x(0)} ${y(l.limit)}H${x(view.duration)}`, stroke: "#22302f", "stroke-dasharray": "3 3" },
          svg,
        );
    } else {
      if (l.band) {
        const [from, until, bottom, top_] = l.band;
        const box = {
          x: x(from),
          width: Math.max(2, x(until) - x(from)),
          y: y(top_),
          height: Math.max(2, y(bottom) - y(top_)),
        };
        el("rect", { ...box, fill: "#dbe5cf" }, svg);
      }
      el(
        "path",
        { d: line, fill: "none", stroke: l.kind === "input" ? "#0e5a61" : "#22302f", "stroke-width": 1.5 },
        svg,
      );
      if (l.band)
        for (const run of outside(l)) {
          const red = run.map((p, k) => `${k ? "L" : "M"}${x(p[0]).toFixed(1)} ${y(p[1]).toFixed(1)}`).join("");
          el("path", { d: red, fill: "none", stroke: "#b5341c", "stroke-width": 4 }, svg);
        }
      el("text", { x: 0, y: y0 + 25, class: "num" }, svg, span(l, min, max));
      if (lane === TALL)
        drawSegments(svg, view, l, hand, { x, y, y0, low, high, scale: (max - min) / Math.max(1, low - high) });
    }
  });
  svg.cursor = el("path", { stroke: "#a8741a", "stroke-width": 2 }, svg);
  svg.place = (part) => svg.cursor.setAttribute("d", `M${x(part * view.duration)} ${top - 4}V${height - 2}`);
  svg.onclick = (e) => {
    const at = (e.clientX - svg.getBoundingClientRect().left - LEFT) / (width - LEFT - RIGHT);
    if (at >= 0) onseek(Math.min(1, at));
  };
}

const shown = (v) => (Math.abs(v) < 1e4 ? (Math.round(v * 10) / 10 + 0).toFixed(1) : v.toPrecision(3));

// where a lane runs, and its ratio to the input
const span = (l, min, max) =>
  `${shown(min)} … ${shown(max)} ${l.unit.replace("^2", "²")}${l.ratio ? ` · ${l.ratio}` : ""}`;

const short = (name) => (name.length > 27 ? `${name.slice(0, 26)}…` : name);

// runs of neighbouring points at which less is left than asked
export const below = (l) => runsOf(l, (p) => p[1] < l.limit || p[1] <= 0);

// runs outside the band, while it is asked
export function outside(l) {
  const [from, until, low, high] = l.band,
    eps = 1e-9 * Math.max(1, Math.abs(high));
  return runsOf(l, (p) => p[0] >= from && p[0] <= until && (p[1] < low - eps || p[1] > high + eps));
}

function runsOf(l, wrong) {
  const runs = [];
  let run = [];
  for (const p of l.points) {
    if (wrong(p)) run.push(p);
    else if (run.length) {
      runs.push(run);
      run = [];
    }
  }
  if (run.length) runs.push(run);
  return runs;
}
