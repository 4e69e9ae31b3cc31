// Outlines drawn on the plane of the open step: the view turns to it, points go to what is there, dimensions are typed over as they
// are drawn. What comes out is an outline of the document like any other.
import { nested } from "../shared/forms.js";
import { tick, within } from "../shared/page_state.js";
import { bulgeOf, endOf, joined, plain, SHAPES, TOOLS, text, traced } from "./shapes.js";
import { inside, snapped, towards } from "./snapping.js";

const GRID = { mm: 0.5e-3, cm: 0.5e-3, m: 0.5e-3, in: 0.0254 / 32 };
const NEAR = 9; // px
const SAME = 1e-9; // m
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
const PIECES = 24; // of an arc that is drawn, for a quarter of its angle in radians

const EMPTY = { x: 0, y: 0, words: "" };

/** @param {Page} page */
export function drawing(page) {
  let map = null, // from the plane to the screen: {o, ax, ay, det}
    around = { points: [], lines: [] };
  return /** @satisfies {ThisType<Workspace>} */ ({
    tool: "", // what is drawn with; empty: nothing is drawn
    chain: [], // points so far {x, y, bulge, typed}
    cursor: EMPTY,
    arcNext: false,
    typedSizes: [], // what was typed over
    typedNow: "",
    drawnFresh: true, // the first loop takes the place of the outline that is there
    drawnLines: { done: "", now: "", x: 0, y: 0 },

    get canDraw() {
      return Boolean(this.openStep?.plane.length && this.outlinePath);
    },
    get outlinePath() {
      const f = this.openStep?.fields.find((x) => x.kind === "kinds" && x.path === `${this.stepAt}.outline`);
      return f?.path || "";
    },
    get toolChoices() {
      return Object.entries(TOOLS).map(([id, t]) => ({ id, name: t.name }));
    },
    get penAt() {
      return `translate(${this.drawnLines.x} ${this.drawnLines.y})`;
    },
    get drawsChain() {
      return this.tool === "line";
    },
    get canCloseChain() {
      return this.drawsChain && this.chain.length > 1;
    },
    get arcReady() {
      return this.drawsChain && this.lastWay() !== null;
    },
    get askedSize() {
      const asks = TOOLS[this.tool]?.asks || [];
      return this.chain.length ? asks[Math.min(this.typedSizes.length, asks.length - 1)] || "" : "";
    },
    get drawingWords() {
      if (!this.tool) return "";
      if (!this.chain.length) return "Point at the first place, or move there with the arrow keys and press Enter";
      return `${this.cursor.words || "on the grid"}${this.sizeWords ? ` · ${this.sizeWords}` : ""}`;
    },
    // the size of what is being drawn
    get sizeWords() {
      const unit = this.handUnit,
        last = this.chain.at(-1),
        c = this.cursor;
      if (!last) return "";
      if (this.tool === "circle") return `⌀ ${text(2 * Math.hypot(c.x - last.x, c.y - last.y), unit, 3)}`;
      if (this.tool === "rectangle")
        return `${text(Math.abs(c.x - last.x), unit, 3)} × ${text(Math.abs(c.y - last.y), unit, 3)}`;
      return text(Math.hypot(c.x - last.x, c.y - last.y), unit, 3);
    },

    startDrawing(tool) {
      const step = this.openStep,
        placed = this.selected.replace("placed.", "");
      if (!step || !page.stage.parts.has(placed)) return;
      const first = !this.tool;
      this.handles = [];
      Object.assign(this, { tool, chain: [], typedSizes: [], typedNow: "", arcNext: false, hint: "" });
      if (first) {
        this.drawnFresh = !this.draft || this.isPristine();
        const [, x, y] = step.plane,
          z = [x[1] * y[2] - x[2] * y[1], x[2] * y[0] - x[0] * y[2], x[0] * y[1] - x[1] * y[0]];
        page.stage.lookAt(this.worldWay(placed, z), this.worldWay(placed, x), placed);
      }
      this.cursor = { x: 0, y: 0, words: "the origin" };
      this.surroundings();
      tick(() => {
        this.placeDrawing();
        within(".drawing-sheet")?.focus();
      });
    },
    stopDrawing() {
      Object.assign(this, { tool: "", chain: [], typedSizes: [], typedNow: "" });
      this.placeHandles();
    },
    // nothing of the outline was changed since the step was begun
    isPristine() {
      return !this.draft.commands.some((c) => JSON.stringify(c).includes(`${this.outlinePath}`));
    },
    // a direction of a part in the world
    worldWay(placed, way) {
      const pose = page.stage.poseOf(placed),
        o = page.stage.world(pose, [0, 0, 0]);
      return page.stage.world(pose, way).map((v, k) => v - o[k]);
    },
    // points and straight edges on or over the plane, of this part and of its neighbours
    surroundings() {
      const step = this.openStep,
        mine = this.selected.replace("placed.", "");
      const points = [{ x: 0, y: 0, words: "the origin" }],
        lines = [];
      for (const p of page.view.placed) {
        if (!page.stage.parts.get(p.id)?.group.visible) continue;
        const pose = page.stage.poseOf(p.id),
          whose = p.id === mine ? "" : ` of ${p.name}`;
        const at = (v) => this.onDrawn(step, mine, page.stage.world(pose, v));
        for (const d of p.datums) {
          if (p.id === mine && d.id.split("+").some((name) => name.startsWith(`${step.id}.`))) continue; // what is being drawn
          const along = d.z.map((v, k) => d.origin[k] + v),
            a = at(d.origin),
            b = at(along);
          const upright = Math.hypot(b.x - a.x, b.y - a.y) < 1e-6;
          if (d.kind === "point" || d.kind === "frame") points.push({ ...a, words: `${d.name}${whose}` });
          else if (d.kind === "axis" && d.radius && upright) points.push({ ...a, words: `centre, ${d.name}${whose}` });
          else if (d.kind === "axis" && !d.radius && d.length && !upright) {
            const ends = [d.low, d.low + d.length].map((s) => at(d.z.map((v, k) => d.origin[k] + s * v)));
            lines.push({ a: ends[0], b: ends[1], words: `on ${d.name}${whose}` });
          }
        }
      }
      around = { points, lines };
    },
    // a point of the world on the plane of the step, m
    onDrawn(step, placed, world) {
      const pose = page.stage.poseOf(placed),
        [o, x, y] = step.plane;
      const at = page.stage.local(pose, world).map((v, k) => v - o[k]);
      const dot = (u) => at[0] * u[0] + at[1] * u[1] + at[2] * u[2];
      return { x: dot(x), y: dot(y) };
    },
    // how the plane lies on the screen
    planeMap() {
      const step = this.openStep,
        placed = this.selected.replace("placed.", ""),
        eps = 1e-3;
      const [o, x, y] = [
        [0, 0],
        [eps, 0],
        [0, eps],
      ].map(([a, b]) => page.stage.project(this.onPlane(step, placed, a, b)));
      const ax = [(x.x - o.x) / eps, (x.y - o.y) / eps],
        ay = [(y.x - o.x) / eps, (y.y - o.y) / eps];
      map = { o, ax, ay, det: ax[0] * ay[1] - ax[1] * ay[0] };
      return map;
    },
    toScreen(p) {
      return [map.o.x + p.x * map.ax[0] + p.y * map.ay[0], map.o.y + p.x * map.ax[1] + p.y * map.ay[1]];
    },
    fromScreen(px, py) {
      const dx = px - map.o.x,
        dy = py - map.o.y;
      return { x: (dx * map.ay[1] - dy * map.ay[0]) / map.det, y: (map.ax[0] * dy - map.ax[1] * dx) / map.det };
    },
    get nearDrawn() {
      return NEAR / Math.sqrt(Math.abs(map.det));
    },
    // the lines on the sheet, wherever the view stands
    placeDrawing() {
      if (!this.tool || !this.openStep) return;
      this.planeMap();
      const loop = (points) => `M${points.map(([x, y]) => this.toScreen({ x, y }).join(" ")).join("L")}`;
      const [x, y] = this.toScreen(this.cursor);
      this.drawnLines = {
        done: this.drawnFresh ? "" : this.openStep.loops.map(loop).join(""),
        now: this.nowDrawn(),
        x,
        y,
      };
    },
    nowDrawn() {
      const c = this.cursor;
      if (!this.chain.length) return "";
      if (this.drawsChain) {
        const all = [...this.chain, { ...c }];
        all[all.length - 2] = { ...all.at(-2), bulge: this.nextBulge(c) };
        return all.map((p, k) => (k ? this.pieceOf(all[k - 1], p) : `M${this.toScreen(p).join(" ")}`)).join("");
      }
      const [a] = this.chain;
      if (this.tool === "rectangle")
        return `M${[a, { x: c.x, y: a.y }, c, { x: a.x, y: c.y }].map((p) => this.toScreen(p).join(" ")).join("L")}Z`;
      if (this.tool === "circle") {
        const r = Math.hypot(c.x - a.x, c.y - a.y),
          turn = [...Array(49).keys()].map((k) => (k * Math.PI) / 24);
        return `M${turn.map((t) => this.toScreen({ x: a.x + r * Math.cos(t), y: a.y + r * Math.sin(t) }).join(" ")).join("L")}`;
      }
      return `M${[...this.chain, c].map((p) => this.toScreen(p).join(" ")).join("L")}`;
    },
    // a piece as lines on the screen, from its first end on
    pieceOf(a, b) {
      if (!a.bulge) return `L${this.toScreen(b).join(" ")}`;
      const quarter = Math.atan(a.bulge),
        count = Math.max(2, Math.ceil(Math.abs(quarter) * PIECES));
      const dx = b.x - a.x,
        dy = b.y - a.y,
        r = 1 / (2 * Math.sin(2 * quarter));
      const cx = (a.x + b.x) / 2 - dy * r * Math.cos(2 * quarter),
        cy = (a.y + b.y) / 2 + dx * r * Math.cos(2 * quarter);
      const out = [];
      for (let k = 1; k <= count; k++) {
        const t = (4 * quarter * k) / count,
          ux = a.x - cx,
          uy = a.y - cy;
        out.push(
          this.toScreen({
            x: cx + ux * Math.cos(t) - uy * Math.sin(t),
            y: cy + ux * Math.sin(t) + uy * Math.cos(t),
          }).join(" "),
        );
      }
      return `L${out.join("L")}`;
    },
    // the direction in which the chain ends; null where it has none yet
    lastWay() {
      return this.chain.length > 1 ? endOf(this.chain.at(-2), this.chain.at(-1)) : null;
    },
    nextBulge(to) {
      const way = this.lastWay(),
        last = this.chain.at(-1);
      if (!this.arcNext || !way || Math.hypot(to.x - last.x, to.y - last.y) < SAME) return 0;
      return bulgeOf(last, to, way) || 0;
    },

    movePen(e) {
      if (!map) this.planeMap();
      const box = page.stage.canvas.getBoundingClientRect();
      const at = this.fromScreen(e.clientX - box.left, e.clientY - box.top),
        grid = GRID[this.handUnit];
      this.cursor = snapped(at, { ...around, drawn: this.chain, grid, near: this.nearDrawn });
      this.placeDrawing();
    },
    dropPen(e) {
      if (e.button) return;
      this.movePen(e);
      this.putPoint();
    },
    // the point under the cursor is taken
    putPoint(typed = "") {
      const c = this.cursor,
        last = this.chain.at(-1);
      if (last && Math.hypot(c.x - last.x, c.y - last.y) < SAME) return;
      if (!this.drawsChain) {
        this.chain = [...this.chain, { x: c.x, y: c.y }];
        if (this.chain.length >= TOOLS[this.tool].points) this.finishShape();
        this.placeDrawing();
        return;
      }
      if (last) Object.assign(last, { bulge: this.nextBulge(c), typed });
      const first = this.chain[0];
      if (this.chain.length > 1 && Math.hypot(c.x - first.x, c.y - first.y) < SAME) {
        this.closeChain();
        return;
      }
      this.chain = [...this.chain, { x: c.x, y: c.y, bulge: 0, typed: "" }];
      this.arcNext = false;
      this.placeDrawing();
    },
    // the last piece leads back to the first corner
    async closeChain() {
      if (!this.canCloseChain) return;
      await this.keepLoop(traced(this.chain, this.handUnit));
    },
    async finishShape() {
      const unit = this.handUnit,
        shape = SHAPES[this.tool](this.chain, unit, this.typedSizes);
      await this.keepLoop(shape);
    },
    async keepLoop(fresh) {
      const at = this.outlinePath,
        first = this.chain[0];
      const old = this.outlineNow(),
        value = this.drawnFresh || !old ? fresh : joined(old, fresh, inside(first, this.openStep.loops));
      const lookAgain = () => this.placeDrawing();
      Object.assign(this, { chain: [], typedSizes: [], typedNow: "", arcNext: false });
      this.once = lookAgain;
      if (await this.attempt({ kind: "set_value", path: at, value })) this.drawnFresh = false;
      this.placeDrawing();
    },
    // the outline of the open step as data
    outlineNow() {
      const start = `${this.stepAt}.`,
        own = this.openStep.fields.filter((f) => f.path.startsWith(`${start}outline`));
      return nested(
        own.map((f) => ({ ...f, path: f.path.slice(start.length) })),
        {},
      ).outline;
    },
    dropPoint() {
      this.chain = this.chain.slice(0, -1);
      this.typedSizes = [];
      this.placeDrawing();
    },
    toggleArc() {
      this.arcNext = !this.arcNext && this.lastWay() !== null;
      this.placeDrawing();
    },

    // a size that is typed takes the place of the drawn one
    typeSize(typed) {
      this.typedNow = "";
      if (!typed.trim() || !this.chain.length) return;
      const unit = this.handUnit,
        far = plain(typed, unit),
        withUnit = far !== null && /^[\s\d.+-]+$/.test(typed) ? `${typed.trim()} ${unit}` : typed.trim();
      const last = this.chain.at(-1);
      if (this.drawsChain) {
        if (far !== null) this.cursor = { ...towards(last, this.cursor, far), words: "" };
        this.putPoint(withUnit);
      } else {
        this.typedSizes = [...this.typedSizes, withUnit];
        if (this.typedSizes.length >= TOOLS[this.tool].asks.length) this.finishTyped();
      }
      within(".drawing-sheet")?.focus();
    },
    finishTyped() {
      const a = this.chain[0],
        c = this.cursor,
        unit = this.handUnit;
      if (this.tool === "slot") {
        const far = plain(this.typedSizes[0], unit),
          b = this.chain[1] || (far === null ? c : towards(a, c, far));
        this.chain = [a, b, { x: b.x, y: b.y + 1e-3 }];
      } else this.chain = [a, { x: c.x, y: c.y }];
      this.finishShape();
    },
    // keys on the sheet; true where the key was one of its own
    drawingKey(e) {
      if (e.target.id === "drawn-size") {
        if (e.key !== "Escape") return false;
        this.typedNow = "";
        within(".drawing-sheet")?.focus();
        return true;
      }
      const way = ARROWS[e.key],
        grid = GRID[this.handUnit] * (e.shiftKey ? 10 : 1);
      if (way) {
        const to = { x: this.cursor.x + way[0] * grid, y: this.cursor.y + way[1] * grid };
        this.cursor = snapped(to, { ...around, drawn: this.chain, grid: GRID[this.handUnit], near: grid / 4 });
        this.placeDrawing();
      } else if (e.key === "Enter" || e.key === " ") this.putPoint();
      else if (e.key === "Backspace") this.dropPoint();
      else if (e.key === "Escape") this.stopDrawing();
      else if (e.key.toLowerCase() === "c" && this.canCloseChain) this.closeChain();
      else if (e.key.toLowerCase() === "a" && this.drawsChain) this.toggleArc();
      else if (/^[\d.(]$/.test(e.key) && this.chain.length) {
        within("#drawn-size")?.focus(); // the key itself goes on into the field
        e.stopPropagation();
        return true;
      } else return false;
      e.preventDefault();
      e.stopPropagation();
      return true;
    },
    wheelOnSheet(e) {
      page.stage.zoom(Math.exp(e.deltaY * 0.001));
    },
  });
}
