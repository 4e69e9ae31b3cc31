// Outlines drawn on their face: the points of the open step stand on the stage, to be dragged or moved by the arrow keys, in round
// steps; the part is seen as it would be, and the numbers change when a point is let go.
import { GHOSTS, latest, overtake } from "../shared/latest.js";

const PER = { mm: 1e3, cm: 1e2, m: 1, in: 1 / 0.0254 };
const STEP = { mm: 0.5, cm: 0.05, m: 0.0005, in: 0.02 };
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
const LATER = 350; // ms after the last key

/** @param {Page} page */
export function outlining(page) {
  let taken = null, // the handle in hand, where it was taken, how far it went
    later = 0,
    showing = false;
  return /** @satisfies {ThisType<Workspace>} */ ({
    handles: [], // {index, name, words, x, y}

    get handStep() {
      return this.panel === "item" && !this.tool && !this.sprout && this.openStep?.handles.length
        ? this.openStep
        : null;
    },
    get handUnit() {
      return this.view.units.length;
    },
    // where the points are on the screen
    placeHandles() {
      const step = this.handStep,
        placed = this.selected.replace("placed.", "");
      if (!step || !page.stage.parts.has(placed)) {
        if (this.handles.length) this.handles = [];
        return;
      }
      this.handles = step.handles.map((h, index) => {
        const [dx, dy] = taken?.index === index ? taken.way : [0, 0];
        const at = page.stage.project(this.onPlane(step, placed, h.at[0] + dx, h.at[1] + dy));
        return { index, name: h.name, words: `${h.name}: ${this.handWords(h, dx, dy)}`, x: at.x, y: at.y };
      });
    },
    onPlane(step, placed, x, y) {
      const [o, a, b] = step.plane;
      return page.stage.world(
        page.stage.poseOf(placed),
        o.map((v, k) => v + x * a[k] + y * b[k]),
      );
    },
    // the values that a handle gives, a way (m) from where it stands
    handValues(h, dx, dy) {
      const out = new Map();
      for (const m of h.moves) {
        if (m.fixed) continue;
        const before = out.get(m.path) ?? m.si;
        out.set(m.path, before + m.factor * (m.axis === "x" ? dx : dy));
      }
      const per = PER[this.handUnit],
        step = STEP[this.handUnit];
      const round = (si, was) => {
        const value = Math.round((si * per) / step) * step;
        return Math.abs(si - was) < 1e-9 ? was * per : value;
      };
      return [...out].map(([path, si]) => [path, round(si, h.moves.find((m) => m.path === path).si)]);
    },
    handWords(h, dx, dy) {
      const values = this.handValues(h, dx, dy).map(
        ([path, v]) => `${path.split(".").at(-1).replaceAll("_", " ")} ${Number(v.toFixed(4))} ${this.handUnit}`,
      );
      return values.join(", ") || "set by formulas";
    },
    handCommand(h, [dx, dy]) {
      const commands = this.handValues(h, dx, dy).map(([path, v]) => ({
        kind: "set_value",
        path,
        value: `${Number(v.toFixed(4))} ${this.handUnit}`,
      }));
      return { kind: "together", commands, words: `${this.handStep.name}: ${h.name} drawn` };
    },
    takeHandle(e, index) {
      e.preventDefault();
      const step = this.handStep,
        placed = this.selected.replace("placed.", ""),
        h = step.handles[index],
        eps = 1e-3;
      // how the plane's axes run on the screen, pixels a metre
      const [o, x, y] = [
        [0, 0],
        [eps, 0],
        [0, eps],
      ].map(([a, b]) => page.stage.project(this.onPlane(step, placed, h.at[0] + a, h.at[1] + b)));
      const ax = [(x.x - o.x) / eps, (x.y - o.y) / eps],
        ay = [(y.x - o.x) / eps, (y.y - o.y) / eps];
      taken = { index, from: [e.clientX, e.clientY], ax, ay, det: ax[0] * ay[1] - ax[1] * ay[0], way: [0, 0] };
      e.target.setPointerCapture(e.pointerId);
    },
    dragHandle(e) {
      if (!taken || !taken.from || Math.abs(taken.det) < 1) return;
      const px = e.clientX - taken.from[0],
        py = e.clientY - taken.from[1],
        { ax, ay, det } = taken;
      taken.way = [(px * ay[1] - py * ay[0]) / det, (ax[0] * py - ax[1] * px) / det];
      this.placeHandles();
      this.showDrawn();
    },
    async dropHandle() {
      if (!taken?.from) return;
      await this.takeDrawn();
    },
    handleKey(e, index) {
      const way = ARROWS[e.key];
      if (!way) return;
      e.preventDefault();
      e.stopPropagation();
      const h = this.handStep.handles[index],
        by = (STEP[this.handUnit] / PER[this.handUnit]) * (e.shiftKey ? 10 : 1);
      if (taken?.index !== index) taken = { index, way: [0, 0] };
      const factor = (axis) => Math.abs(h.moves.find((m) => m.axis === axis && !m.fixed)?.factor || 1);
      taken.way = [taken.way[0] + (way[0] * by) / factor("x"), taken.way[1] + (way[1] * by) / factor("y")];
      this.placeHandles();
      clearTimeout(later);
      later = setTimeout(() => this.takeDrawn(), LATER);
    },
    // the part as it would be; one picture at a time
    async showDrawn() {
      if (showing || !taken) return;
      showing = true;
      const mine = taken,
        way = taken.way;
      try {
        const command = this.handCommand(this.handStep.handles[taken.index], taken.way);
        await latest(GHOSTS, (when) => this.showGhosts(command, when));
      } catch {
        // what cannot be made is said when the point is let go
      } finally {
        showing = false;
        if (taken === mine && taken.way !== way) this.showDrawn(); // it went on meanwhile
      }
    },
    async takeDrawn() {
      const hand = taken;
      if (!hand) return;
      const moved = Math.hypot(...hand.way) > 1e-7,
        command = this.handCommand(this.handStep.handles[hand.index], hand.way);
      taken = null;
      overtake(GHOSTS);
      if (moved && command.commands.length && (await this.attempt(command))) {
        this.once = () => this.placeHandles();
        return;
      }
      await this.dropGhosts();
      this.placeHandles();
    },
  });
}
