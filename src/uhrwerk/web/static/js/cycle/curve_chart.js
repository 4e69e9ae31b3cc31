// The chart of curves: over the time, or over another curve; a pane for each unit, all over one axis.
import { atWords } from "../shared/moment_words.js";
import { el } from "../shared/svg.js";

const INK = "#22302f",
  FAINT = "#e4dcc8";
const LEFT = 62,
  RIGHT = 14,
  BARE = 6, // above the first pane, and where the axis is named there
  NAMED = 18,
  BOTTOM = 18,
  BETWEEN = 8;

// {curve, series, colour, dash, beside} of what is shown -> panes of one unit each
export function panesOf(shown) {
  const panes = new Map();
  for (const s of shown) panes.set(s.series.unit, [...(panes.get(s.series.unit) || []), s]);
  return [...panes].map(([unit, curves]) => ({ unit, curves }));
}

// round numbers within a range, few
export function ticks(low, high, count) {
  const rough = (high - low) / count || 1,
    power = 10 ** Math.floor(Math.log10(rough)),
    step = [1, 2, 5, 10].find((k) => k * power >= rough) * power,
    out = [];
  for (let k = Math.ceil(low / step - 1e-9) + 0; k * step <= high + 1e-9 * step; k++) out.push(k * step);
  return { at: out, digits: Math.max(0, -Math.floor(Math.log10(step) + 1e-9)) };
}

// a curve that changes by less than this part of itself stands still
const STILL = 1e-7;

const range = (all) => {
  const known = all.filter((v) => v !== null),
    low = Math.min(...known),
    high = Math.max(...known);
  if (!known.length) return [0, 1];
  const size = Math.max(Math.abs(low), Math.abs(high)),
    still = high - low <= STILL * size; // what does not change is not drawn as noise from edge to edge
  const room = still ? (size || 1) * 0.05 : (high - low) * 0.06;
  return [low - room, high + room];
};

// a value between two frames
export function valueAt(times, values, t) {
  const k = times.findIndex((x) => x >= t);
  if (k < 0) return values.at(-1);
  if (k === 0) return values[0];
  const [a, b] = [values[k - 1], values[k]];
  if (a === null || b === null) return null;
  return a + ((t - times[k - 1]) / (times[k] - times[k - 1] || 1)) * (b - a);
}

// enough digits to read, with the sign where it is a difference
export function round(v, signed) {
  const digits = Math.abs(v) >= 1000 ? 0 : Math.abs(v) >= 100 ? 1 : Math.abs(v) >= 1 ? 2 : 4,
    words = v.toFixed(digits).replace("-", "−");
  return signed && v >= 0 ? `+${words}` : words;
}

// places where the curve is known, as one path
function line(xs, ys, x, y) {
  let pen = "M";
  return ys
    .map((v, k) => {
      if (v === null || xs[k] === null || xs[k] === undefined) {
        pen = "M";
        return "";
      }
      const step = `${pen}${x(xs[k]).toFixed(1)} ${y(v).toFixed(1)}`;
      pen = "L";
      return step;
    })
    .join("");
}

// `over` is null for the time, or the curve that lies along the axis
export function drawChart(svg, view, shown, over, onseek) {
  svg.replaceChildren();
  svg.place = () => {};
  const width = svg.clientWidth || svg.parentElement.clientWidth,
    height = svg.clientHeight || 240;
  svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  if (!shown.length) return;
  const TOP = over ? NAMED : BARE,
    panes = panesOf(shown),
    tall = (height - TOP - BOTTOM - BETWEEN * (panes.length - 1)) / panes.length,
    along = (s) => (over ? over.series.values : s.curve.times),
    end = Math.max(...shown.map((s) => s.curve.times.at(-1))),
    [left, right] = over ? range(over.series.values) : [0, end],
    x = (v) => LEFT + ((v - left) / (right - left)) * (width - LEFT - RIGHT);
  const low = height - BOTTOM;
  if (over) {
    const t = ticks(left, right, 8);
    for (const v of t.at) upright(svg, x(v), TOP, low, v.toFixed(t.digits));
    el(
      "text",
      { x: width - RIGHT, y: 11, class: "num", "text-anchor": "end" },
      svg,
      `${over.curve.name}, ${over.series.unit}`,
    );
  } else
    for (let k = 0; k <= 12; k++)
      upright(
        svg,
        x((end * k) / 12),
        TOP,
        low,
        k % 2 ? "" : atWords(view, ((end / view.duration) * k) / 12).replace(".0", ""),
      );
  const dots = [];
  panes.forEach((pane, i) => {
    const top = TOP + i * (tall + BETWEEN),
      [least, most] = range(pane.curves.flatMap((s) => s.series.values)),
      y = (v) => top + tall - ((v - least) / (most - least)) * tall;
    el("rect", { x: LEFT, y: top, width: width - LEFT - RIGHT, height: tall, fill: "none", stroke: FAINT }, svg);
    const t = ticks(least, most, Math.max(2, tall / 26));
    for (const v of t.at) {
      el("path", { d: `M${LEFT} ${y(v)}H${width - RIGHT}`, stroke: v === 0 ? "#b9ad90" : FAINT }, svg);
      el(
        "text",
        { x: LEFT - 5, y: y(v) + 3.5, class: "num", "text-anchor": "end" },
        svg,
        v.toFixed(t.digits).replace("-", "−"),
      );
    }
    el("text", { x: 2, y: top + 9, class: "num unit" }, svg, pane.unit.replace("^2", "²").replace("^3", "³") || "1");
    for (const s of pane.curves) {
      const d = line(along(s), s.series.values, x, y);
      el(
        "path",
        {
          d,
          fill: "none",
          stroke: s.colour,
          "stroke-width": s.beside ? 1 : 1.7,
          "stroke-dasharray": s.beside ? "2 3" : s.dash,
          opacity: s.beside ? 0.8 : 1,
        },
        svg,
      );
      if (s.beside) continue;
      if (!over)
        for (const [at, sign] of [
          [s.series.low, 1],
          [s.series.high, -1],
        ])
          extreme(svg, at, sign, s, x, y);
      const dot = el("circle", { r: 3.5, fill: s.colour }, svg);
      dots.push({ dot, s, y });
    }
  });
  const cursor = el("path", { stroke: "#a8741a", "stroke-width": 2 }, svg),
    pin = el("path", { stroke: "#a8741a", "stroke-dasharray": "4 3" }, svg);
  const placed = (t) => (over ? valueAt(over.curve.times, over.series.values, t) : t);
  svg.place = (t, pinned) => {
    const at = placed(t);
    cursor.setAttribute("d", at === null ? "" : `M${x(at)} ${TOP}V${low}`);
    const other = pinned === null ? null : placed(pinned);
    pin.setAttribute("d", other === null ? "" : `M${x(other)} ${TOP}V${low}`);
    for (const { dot, s, y } of dots) {
      const v = valueAt(s.curve.times, s.series.values, t);
      dot.setAttribute("visibility", v === null || at === null ? "hidden" : "visible");
      if (v === null || at === null) continue;
      dot.setAttribute("cx", x(at));
      dot.setAttribute("cy", y(v));
    }
  };
  svg.onclick = (e) => {
    const px = e.clientX - svg.getBoundingClientRect().left;
    if (!over) onseek(((px - LEFT) / (width - LEFT - RIGHT)) * end);
  };
}

function upright(svg, at, top, low, words) {
  el("path", { d: `M${at} ${top}V${low}`, stroke: FAINT }, svg);
  if (words) el("text", { x: at, y: low + 13, class: "num", "text-anchor": "middle" }, svg, words);
}

// a small triangle at the least or the greatest, with its value told
function extreme(svg, at, sign, s, x, y) {
  if (!at.length) return;
  const [px, py] = [x(at[0]), y(at[1])];
  const mark = el(
    "path",
    { d: `M${px} ${py}l-4 ${7 * sign}h8z`, fill: "var(--sheet)", stroke: s.colour, "stroke-width": 1.2 },
    svg,
  );
  el(
    "title",
    {},
    mark,
    `${s.curve.name}: ${sign > 0 ? "least" : "greatest"} ${at[1].toFixed(4)} ${s.series.unit} at ${at[0].toFixed(5)} s`,
  );
}

// the chart as a file of its own, as it is seen
export function asFile(svg) {
  const copy = svg.cloneNode(true);
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("width", svg.clientWidth);
  copy.setAttribute("height", svg.clientHeight);
  for (const text of copy.querySelectorAll("text")) {
    text.setAttribute("font-family", "monospace");
    text.setAttribute("font-size", "10");
    text.setAttribute("fill", INK);
  }
  for (const node of copy.querySelectorAll('[fill="var(--sheet)"]')) node.setAttribute("fill", "#ffffff");
  return new XMLSerializer().serializeToString(copy);
}
