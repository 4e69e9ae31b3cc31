// Segments of a programme in its lane: bands to choose one by, and a corner at the end of each to draw it by, with the pointer or
// the arrow keys. What is drawn goes to `hand`.
import { el } from "../shared/svg.js";
import { degrees, drawnTo, end, STEPS, stretches } from "./segment_snapping.js";

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

export function drawSegments(svg, view, lane, hand, at) {
  const place = (deg) => at.x((deg / 360) * (view.duration / view.reached));
  const others = view.lanes.filter((l) => l !== lane && l.segments?.length);
  const marks = others.flatMap((l) => [l.begins, ...l.segments.map((s) => end(l, s))]);
  for (const s of lane.segments) {
    const chosen = s.path === hand.segment;
    for (const [from, to] of stretches(lane, s)) {
      const band = el(
        "rect",
        { x: place(from), y: at.y0 + 3, width: Math.max(0, place(to) - place(from)), height: at.low - at.y0 + 6 },
        svg,
      );
      band.setAttribute("class", chosen ? "segment chosen" : "segment");
      band.dataset.segment = s.id;
      band.addEventListener("click", (e) => {
        e.stopPropagation();
        hand.choose(s.path);
      });
      el("title", {}, band, `${s.id}: ${s.law}`);
      const name = s.start === s.to ? `${s.id}: dwell` : s.id,
        room = (place(to) - place(from) - 6) / 6; // letters
      if (room > 3)
        el(
          "text",
          { x: place(from) + 4, y: at.y0 + 14, class: "segment-name", "pointer-events": "none" },
          svg,
          name.length <= room ? name : s.id.length <= room ? s.id : `${s.id.slice(0, room - 1)}…`,
        );
    }
  }
  for (const s of lane.segments) corner(svg, lane, s, hand, { ...at, place, marks });
}

function corner(svg, lane, s, hand, at) {
  const step = STEPS[lane.unit] || 1,
    place = (way) => ({ x: at.place(end(lane, s)) + way.x, y: at.y(s.to) - way.y / at.scale });
  const dot = el("circle", { r: 6, tabindex: 0, role: "slider", class: "corner" }, svg);
  dot.dataset.corner = s.id;
  const words = (deg, value) => `${Number(deg.toFixed(2))}°, ${Number(value.toFixed(4))} ${lane.unit}`;
  dot.setAttribute("aria-label", `End of ${s.id}`);
  dot.setAttribute("aria-valuenow", String(Number(s.to.toFixed(4))));
  dot.setAttribute("aria-valuetext", words(end(lane, s), s.to));
  const tip = el("text", { class: "num corner-tip", "pointer-events": "none" }, svg);
  const show = (deg, value, x, y) => {
    dot.setAttribute("cx", x);
    dot.setAttribute("cy", y);
    dot.setAttribute("aria-valuetext", words(deg, value));
    tip.setAttribute("x", Math.min(x + 9, svg.clientWidth - 96));
    tip.setAttribute("y", y - 8);
    tip.textContent = words(deg, value);
  };
  const rest = place({ x: 0, y: 0 });
  show(end(lane, s), s.to, rest.x, rest.y);
  tip.textContent = "";
  let taken = null;
  const drawn = (deg, value, snap) =>
    drawnTo(lane, s, { deg, value }, snap ? { marks: at.marks, place: at.place } : {});
  const send = (next) =>
    hand.draw(s, next.until === s.end ? null : next.until, next.to === s.to ? null : `${tidy(next.to)} ${lane.unit}`);
  const further = (deg, value) =>
    hand.keys(s, deg, value, (allDeg, allValue) => {
      const next = drawn(allDeg, allValue, false);
      const x = at.place(degrees(lane, next.until) || 360);
      show(degrees(lane, next.until), next.to, x, rest.y - (next.to - s.to) / at.scale);
      return () => send(next);
    });
  dot.addEventListener("pointerdown", (e) => {
    e.preventDefault();
    e.stopPropagation();
    dot.focus();
    dot.classList.add("taken");
    taken = { x: e.clientX, y: e.clientY, next: null };
    dot.setPointerCapture(e.pointerId);
    hand.choose(s.path, true);
  });
  dot.addEventListener("pointermove", (e) => {
    if (!taken) return;
    const wide = at.place(1) - at.place(0);
    taken.next = drawn((e.clientX - taken.x) / wide, -(e.clientY - taken.y) * at.scale, true);
    show(
      degrees(lane, taken.next.until),
      taken.next.to,
      at.place(degrees(lane, taken.next.until) || 360),
      rest.y - (taken.next.to - s.to) / at.scale,
    );
  });
  const release = (next) => {
    taken = null;
    dot.classList.remove("taken");
    send(next || { until: s.end, to: s.to });
  };
  dot.addEventListener("pointerup", () => taken && release(taken.next));
  dot.addEventListener("pointercancel", () => taken && release(null));
  dot.addEventListener("click", (e) => e.stopPropagation());
  dot.addEventListener("focus", () => hand.choose(s.path, true));
  dot.addEventListener("keydown", (e) => {
    const way = ARROWS[e.key],
      much = e.shiftKey ? 10 : 1;
    if (e.key === "Delete" || e.key === "Backspace") {
      e.preventDefault();
      e.stopPropagation();
      hand.change("remove", s.path);
    }
    if (!way) return;
    e.preventDefault();
    e.stopPropagation();
    further(way[0] * much, way[1] * much * step);
  });
  dot.addEventListener("further", (e) => further(e.detail.deg, e.detail.value));
}

const tidy = (v) => Number(v.toFixed(6));
