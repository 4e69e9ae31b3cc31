// The workspace of one mechanism: state of the page and its actions. All computing is done by the server.
import { block, json, readMesh } from "./api.js";
import { Stage } from "./stage.js";
import { drawScheme } from "./scheme.js";
import { drawLanes } from "./cycle.js";
import { catalogue } from "./catalogue.js";
import { forms } from "./forms.js";
import { growing } from "./growing.js";
import { joining } from "./joining.js";
import { holding } from "./hold.js";
import { seeing } from "./seeing.js";
import { repeating } from "./repeating.js";

const mechanism = document.body.dataset.mechanism;
const api = `/api/mechanisms/${mechanism}`;
const EMPTY = { verdicts: [], placed: [], problems: [], masses: [], groups: [], joints: [], relations: [], pairs: [], repeats: [], driveable: [], remarks: [], units: { length: "mm" }, drivers: [], parameters: [], requirements: [], lanes: [], cards: {}, mobility: null, moving: false, duration: 0, reached: 1 };

// not reactive: the element of the page, the stage, and the block of poses
let root = null;
let stage = null;
let poses = null;
let view = EMPTY;
let pointed = [];
let step0 = 0;

// what the other modules see of the page
let self = null;
const page = {
  api, get stage() { return stage; }, get view() { return view; }, pointed: () => pointed,
  redrawScheme() { self?.redrawScheme(); }, home() { self?.home(); },
};

function mixed(...parts) {
  const out = {};
  for (const part of parts) Object.defineProperties(out, Object.getOwnPropertyDescriptors(part));
  return out;
}

document.addEventListener("alpine:init", () => {
  window.Alpine.data("workspace", () => mixed(forms(page), catalogue(page), growing(page), joining(page), holding(page), seeing(page), repeating(page), {
    state: { name: "", revision: 0, undo: null, redo: null }, view: EMPTY, loaded: false,
    busy: false, busyWords: "", busyPart: 0, changed: "", notice: "", conflictWith: 0,
    step: "Parts", selected: "", panel: "item", errors: {}, kept: {}, revisions: [],
    part: 0, playing: false, reverse: false, pace: "1", tag: { words: "", x: 0, y: 0, fails: false }, hint: "",
    form: {}, formError: "", handPosed: false,

    async init() {
      root = this.$el;
      stage = new Stage(root.querySelector(".stage-canvas"));
      stage.onpoint = (e) => this.point(e);
      stage.onpick = (e) => this.pick(e);
      stage.onview = () => this.placeTag();
      self = this;
      stage.ongrab = (e) => { const hit = stage.solidUnder(e); return hit ? this.grab(hit.placed, hit.point) : false; };
      stage.ondrag = (point) => this.drag(point);
      stage.ondrop = () => this.drop();
      new ResizeObserver(() => this.redrawLanes()).observe(root.querySelector(".lanes-scroll"));
      await Promise.all([this.loadChoices(), this.loadCurrent()]);
      if (this.view.verdicts.some((v) => v.holds === false)) this.worstFirst();
    },

    // revisions

    async loadCurrent() {
      this.closeNotice();
      try {
        this.state = await json("GET", api);
        await this.evaluate();
      } catch (error) { this.explain(error); }
    },
    async evaluate() {
      const wanted = this.state.revision, at = `${api}/revisions/${wanted}`;
      this.busy = true; this.busyWords = "computing"; this.busyPart = 0;
      try {
        for (;;) {
          const got = await fetch(`${at}/view`);
          const told = await got.json().catch(() => ({ error: `The server failed (${got.status}); its log says why. Undo the last change and go on.` }));
          if (this.state.revision !== wanted) return;
          if (got.status === 202) { this.busyWords = told.words; this.busyPart = told.fraction; await new Promise((r) => setTimeout(r, 120)); continue; }
          if (!got.ok) throw Object.assign(new Error(told.error), { fields: [] });
          const buffer = await block(`${at}/poses`);
          const [frames, parts] = new Uint32Array(buffer, 0, 2);
          this.compare(view.verdicts, told.verdicts);
          poses = { frames, parts, data: new Float32Array(buffer, 8) };
          view = told;
          this.view = told;
          break;
        }
        const first = !this.loaded || stage.parts.size !== view.placed.length;
        await stage.show(view.placed, async (placed, body) => readMesh(await block(`${at}/solids/${placed}/${body}`)));
        this.loaded = true;
        this.busy = false;
        if (this.selected && !this.cardOf(this.selected)) this.selected = "";
        this.paint();
        this.handPosed = false;
        this.see();
        this.showMoment();
        if (first) stage.fit();
        window.Alpine.nextTick(() => this.redrawLanes());
        root.dataset.evaluated = String(wanted);
        if (view.lanes.some((l) => l.kind === "requirement")) this.fillLanes(at, wanted);
      } catch (error) { this.explain(error); } finally { if (this.state.revision === wanted) this.busy = false; }
    },
    // distances over the cycle are drawn when the verdicts stand already
    async fillLanes(at, wanted) {
      const lanes = await json("GET", `${at}/lanes`);
      if (this.state.revision !== wanted) return;
      view.lanes = lanes;
      this.redrawLanes();
    },
    compare(before, after) {
      if (!before.length) { this.changed = ""; return; }
      const was = new Map(before.map((v) => [v.requirement, v.holds]));
      const mended = after.filter((v) => v.holds === true && was.get(v.requirement) === false).length;
      const fresh = after.filter((v) => v.holds === false && was.get(v.requirement) !== false && was.has(v.requirement)).length;
      this.changed = mended || fresh ? `since the last change: ${mended} mended, ${fresh} new` : "since the last change: nothing mended, nothing new";
    },
    async command(command) {
      try {
        this.state = await json("POST", `${api}/commands`, { revision: this.state.revision, command });
      } catch (error) {
        if (error.status === 409) { this.notice = error.message; this.conflictWith = error.current; }
        throw error;
      }
      this.evaluate();
    },
    async undo() { await this.walk("undo"); },
    async redo() { await this.walk("redo"); },
    async walk(way) {
      try {
        this.state = await json("POST", `${api}/${way}`, { revision: this.state.revision });
        this.errors = {}; this.kept = {};
        await this.evaluate();
      } catch (error) { if (error.status === 409) this.conflictWith = error.current; this.explain(error); }
    },
    async otherMode() { this.notice = ""; await this.walk("other-mode"); },
    async stopWork() { await json("DELETE", `${api}/revisions/${this.state.revision}/view`); },
    explain(error) { this.notice = error.message; },
    closeNotice() { this.notice = ""; this.conflictWith = 0; },

    // strip

    get summary() {
      const v = this.view.verdicts, failing = v.filter((x) => x.holds === false).length, open = v.filter((x) => x.holds === null).length;
      if (!this.loaded) return "…";
      if (!v.length) return "Nothing asked yet";
      if (failing) return `${failing} of ${v.length} fail`;
      return open ? `${open} of ${v.length} without answer` : v.length === 1 ? "It holds" : `All ${v.length} hold`;
    },
    sign(v) { return { true: "○", false: "✕" }[v.holds] || "–"; },
    tileClass(v) { return ({ true: "holds", false: "fails" }[v.holds] || "open") + (this.selected === `requirements.${v.requirement}` ? " current" : ""); },
    tileWords(v) { return `${{ true: "holds", false: "fails" }[v.holds] || "no answer"}: ${v.words}`; },
    openVerdict(v) {
      this.go("Checks");
      this.select(`requirements.${v.requirement}`);
      if (v.time !== null && this.view.duration) { this.playing = false; this.seek(v.time / this.view.duration); }
    },
    worstFirst() {
      const v = this.view.verdicts.find((x) => x.holds === false);
      if (v) this.openVerdict(v);
    },

    // steps and items

    get steps() {
      const v = this.view, loose = v.mobility ? v.mobility.loose.length : 0, failing = v.verdicts.filter((x) => x.holds !== true).length;
      const free = v.mobility ? v.mobility.undriven : 0;
      return [
        { name: "Parts", count: v.placed.length, bad: false }, { name: "Joints", count: v.joints.length + v.relations.length + v.pairs.length, bad: loose > 0 },
        { name: "Drive", count: v.drivers.length, bad: free > 0 }, { name: "Checks", count: failing || v.verdicts.length, bad: failing > 0 },
        { name: "Balance", count: "–", bad: false }, { name: "Revisions", count: this.state.revision, bad: false },
      ];
    },
    railClass(s) { return (s.name === this.step ? "on" : "") + (s.bad ? " bad" : ""); },
    go(step) {
      this.step = step;
      this.panel = { Balance: "balance", Revisions: "revisions" }[step] || "item";
      if (step === "Revisions") json("GET", `${api}/revisions`).then((r) => { this.revisions = r; });
    },
    get items() {
      const v = this.view;
      if (this.step === "Joints") return [...v.repeats.map((r) => ({ path: `repeats.${r.id}`, name: r.name, note: { ring: "round", row: "along", mirror: "behind", copy: "again" }[r.kind] })), ...v.joints.map((j) => ({ path: `joints.${j.id}`, name: j.name, note: j.kind })), ...v.relations.map((j) => ({ path: `relations.${j.id}`, name: j.name, note: j.kind })), ...v.pairs.map((p) => ({ path: `pairs.${p.id}`, name: p.name, note: p.ratio || p.kind }))];
      if (this.step === "Drive") return [...v.drivers.map((d) => ({ path: `drivers.${d.id}`, name: d.name, note: d.note })), { path: "cycle", name: "Cycle", note: v.duration ? `${v.duration.toFixed(3)} s` : "" }];
      if (this.step === "Checks") return v.verdicts.map((x) => ({ path: `requirements.${x.requirement}`, name: `${this.sign(x)} ${x.name}`, note: x.valueText }));
      return [...v.placed.map((p) => ({ path: `placed.${p.id}`, name: p.name, note: p.isFrame ? "frame" : p.leftOut ? "left out" : p.loose ? "loose" : p.hint })), ...v.groups.map((g) => ({ path: `groups.${g.id}`, name: g.name, note: "group" })), ...v.parameters.map((p) => ({ path: `parameters.${p.name}`, name: p.name, note: p.formula }))];
    },
    get schemeWords() {
      const { mobility: m, scheme: s } = this.view;
      return m && s ? `${s.loops} ${s.loops === 1 ? "loop" : "loops"} · mobility ${m.count}` : "";
    },
    select(path) {
      this.selected = path;
      if (this.growAt && path !== `placed.${this.growAt.split("/")[0]}`) this.growFrom("");
      if (!this.picking) this.panel = "item";
      this.formError = "";
      this.paint();
    },
    paint() {
      const id = this.selected.startsWith("placed.") ? this.selected.slice(7) : null;
      const v = this.verdictShown();
      stage.selected = id;
      stage.failing = v && v.holds === false ? v.bodies : [];
      stage.paint();
      this.redrawScheme();
      this.redrawLanes();
    },
    verdictShown() {
      const key = this.selected.startsWith("requirements.") ? this.selected.slice(13) : null;
      return this.view.verdicts.find((v) => v.requirement === key) || (key ? null : this.view.verdicts.find((v) => v.holds === false && v.time !== null));
    },
    redrawScheme() {
      if (view.scheme && poses) drawScheme(root.querySelector(".scheme-drawing"), view, (p) => this.poseOf(p), this.selected, stage.failing.map((b) => b.split("/")[0]), (path) => this.select(path));
    },
    home() { this.handPosed = false; this.showMoment(); },
    poseOf(placed) {
      if (this.handPosed || this.chosen) return stage.poseOf(placed);
      const k = view.placed.findIndex((p) => p.id === placed), frame = Math.round(this.part * (poses.frames - 1));
      return Array.from(poses.data.subarray((frame * poses.parts + k) * 7, (frame * poses.parts + k) * 7 + 7));
    },

    // card

    cardOf(path) { return view.cards[path]; },
    get card() { return this.view.cards[this.selected] || { title: "", about: "", fields: [], results: [], maps: [] }; },
    get cardMaps() {
      return Object.entries(this.card.maps || {}).map(([path, blank]) => ({ path, blank, one: path.split(".").at(-1).slice(0, -1) }));
    },
    get canBeFrame() { return this.selected.startsWith("placed.") && this.selected !== `placed.${this.view.frame}`; },
    get worst() {
      const v = this.selected.startsWith("requirements.") ? this.verdictShown() : null;
      if (!v) return { title: "", words: "", known: "" };
      return { title: { true: `${v.name} holds`, false: `${v.name} fails` }[v.holds] || `${v.name}: no answer`, words: v.words, known: v.errorText ? `value ± ${v.errorText}` : "" };
    },
    async setField(f, text) {
      if (text === f.text) { delete this.errors[f.path]; delete this.kept[f.path]; return; }
      try {
        const value = f.kind === "integer" && /^\s*\d+\s*$/.test(text) ? Number(text) : text;
        await this.command({ kind: "set_value", path: f.path, value });
        delete this.errors[f.path]; delete this.kept[f.path];
      } catch (error) {
        this.kept[f.path] = text;
        this.errors[f.path] = error.fields.find((x) => x.path === f.path)?.reason || error.message;
      }
    },
    async attempt(command) { try { await this.command(command); return true; } catch (error) { if (error.status !== 409) this.explain(error); return false; } },
    rename(name) { this.attempt({ kind: "set_value", path: this.card.name, value: name }); },
    async addTo(m) {
      const taken = this.card.fields.filter((f) => f.kind === "heading").map((f) => f.path.split(".").at(-1));
      let n = 1;
      while (taken.includes(`${m.one}_${n}`)) n++;
      await this.attempt({ kind: "set_value", path: `${m.path}.${m.one}_${n}`, value: m.blank });
    },
    removePath(path) { this.attempt({ kind: "remove", path }); },
    async removeSelected() { const path = this.selected; if (await this.attempt({ kind: "remove", path })) this.selected = ""; },
    makeFrame() { this.attempt({ kind: "set_value", path: "frame", value: this.selected.slice(7) }); },
    reverseDrive() {
      const f = this.card.fields.find((x) => x.path === this.card.reverse), bare = f.text.match(/^-\((.*)\)$/);
      this.attempt({ kind: "set_value", path: f.path, value: bare ? bare[1] : `-(${f.text})` });
    },

    // forms

    open(panel) {
      this.panel = panel; this.formError = "";
this.values = {}; this.errors = {};
      const only = this.view.driveable.filter((j) => !this.view.drivers.some((d) => d.joint === j.id));
      const kind = only[0] && !only[0].turning ? "sliding" : "turning";
      this.form = { driver: { kind, name: "Motor", duration: "" }, requirement: { kind: "no_interference", name: "" }, parameter: { name: "", formula: "" } }[panel];
      if (panel === "driver" && only.length) this.values = { joint: only[0].id };
    },
    askMore() { this.go("Checks"); this.open("requirement"); },
    leave() { if (this.element) this.leaveElement(); if (this.picking) this.clearJoin(); this.panel = "item"; this.values = {}; this.hint = ""; stage.handle(null); stage.mark([]); this.home(); stage.canvas.classList.remove("picking"); this.tag.words = ""; this.paint(); },
    async submit(command, done) {
      this.formError = "";
      try { await this.command(command); this.leave(); if (done) this.select(done); } catch (error) { this.formError = error.fields[0]?.reason || error.message; }
    },
    get bodyChoices() {
      return this.view.placed.flatMap((p) => [{ id: p.id, name: p.name }, ...(p.bodies.length > 1 ? p.bodies.map((b) => ({ id: `${p.id}/${b}`, name: `${p.name}: ${b.replaceAll("_", " ")}` })) : [])]);
    },
    async addParameter() { await this.submit({ kind: "set_parameter", name: this.form.name, formula: this.form.formula }, `parameters.${this.form.name}`); },

    // pointing

    point(e) {
      if (this.playing) return;
      pointed = stage.under(e);
      step0 = 0;
      this.sayPointed(e.offsetX, e.offsetY);
    },
    sayPointed(x, y) {
      const list = this.picking ? pointed.filter((p) => p.datum) : pointed, p = list[step0 % Math.max(1, list.length)];
      if (!p) { if (!this.tag.pinned) this.tag.words = ""; return; }
      const more = list.length > 1 && this.picking ? ` (${(step0 % list.length) + 1} of ${list.length}: N)` : "";
      this.tag = { words: `${p.part.name}${p.datum ? `, ${p.datum.name}: ${p.datum.words}` : ""}${more}`, x, y, fails: false, left: x > stage.canvas.clientWidth * 0.6 };
      if (this.picking) stage.mark([...this.marks([this.joinA, this.joinB]), ...(p.datum ? [{ placed: p.placed, datum: p.datum }] : [])]);
    },
    pick(e) {
      pointed = pointed.length ? pointed : stage.under(e);
      if (!this.picking) { const hit = pointed.find((p) => p.datum) || pointed[0];
        if (hit) { this.step = "Parts"; this.select(`placed.${hit.placed}`); this.growFrom(hit.datum ? `${hit.placed}/${hit.datum.id}` : ""); }
        return;
      }
      const list = pointed.filter((p) => p.datum), p = list[step0 % Math.max(1, list.length)];
      if (!p) { this.hint = "No datum here: point at a bore, a pin or a face"; return; }
      this.pickDatum(`${p.placed}/${p.datum.id}`);
    },

    // cycle

    get moment() {
      const { duration: d } = this.view;
      return d ? `${(this.part * 360 * this.view.reached).toFixed(1)}° of 360° · ${(this.part * d).toFixed(3)} of ${(d / this.view.reached).toFixed(3)} s` : "";
    },
    seek(part) { this.part = Number(part); this.handPosed = false; this.showMoment(); },
    showMoment() {
      if (!poses || !stage || this.handPosed) return;
      stage.pose(poses, this.part * (poses.frames - 1));
      this.redrawScheme();
      const svg = root.querySelector(".lanes");
      if (svg.cursor) svg.place(this.part);
      this.placeTag();
    },
    placeTag() {
      const v = this.verdictShown();
      if (!v || !v.points.length || v.time === null || !this.view.duration || Math.abs(v.time / this.view.duration - this.part) > 0.004) { if (this.tag.pinned) this.tag = { words: "", x: 0, y: 0, fails: false }; return; }
      if (this.picking || this.handPosed) return;
      const p = stage.project(v.points[0]);
      this.tag = { words: `${v.valueText} at ${((360 * this.view.reached * v.time) / this.view.duration).toFixed(1)}°`, x: p.x, y: p.y, fails: v.holds === false, pinned: true, left: p.x > stage.canvas.clientWidth * 0.8 };
    },
    redrawLanes() {
      const svg = root.querySelector(".lanes");
      drawLanes(svg, view, this.selected, (p) => this.seek(p), (path) => this.select(path));
      if (svg.cursor) svg.place(this.part);
    },
    togglePlay() {
      this.handPosed = false;
      this.playing = !this.playing && this.view.moving;
      let last = performance.now();
      const run = (now) => {
        if (!this.playing) return;
        const step = (((now - last) / 1000) * Number(this.pace)) / this.view.duration;
        last = now;
        this.part = (((this.part + (this.reverse ? -step : step)) % 1) + 1) % 1;
        this.showMoment();
        requestAnimationFrame(run);
      };
      requestAnimationFrame(run);
    },
    toggleReverse() { this.reverse = !this.reverse; },
    fit() { stage.fit(); },

    key(e) {
      const typing = e.target.matches("input:not([type=range]):not([type=checkbox]), select, textarea");
      if ((e.ctrlKey || e.metaKey) && !typing && "zy".includes(e.key.toLowerCase())) { e.preventDefault(); e.key.toLowerCase() === "y" || e.shiftKey ? this.redo() : this.undo(); return; }
      if (e.key === "Escape") { if (this.sprout) this.dropSprout(); else this.leave(); return; }
      if (e.key === "Enter" && this.sprout && !e.target.matches("button, a, select")) { e.preventDefault(); if (typing) e.target.blur(); window.Alpine.nextTick(() => this.takeSprout()); return; }
      if (e.key === "Enter" && this.panel === "join" && this.chosen && !e.target.matches("button, a, select")) { e.preventDefault(); if (typing) e.target.blur(); window.Alpine.nextTick(() => this.accept()); return; }
      if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
      const button = e.target.matches("button, a, summary");
      const frame = 1 / Math.max(1, this.view.frames || 1);
      const does = {
        " ": () => this.togglePlay(), ",": () => this.seek(Math.max(0, this.part - frame)), ".": () => this.seek(Math.min(1, this.part + frame)),
        r: () => this.toggleReverse(), j: () => this.startJoin(), f: () => this.fit(), w: () => this.worstFirst(), "?": () => window.location.assign("/help"),
        m: () => this.startMeasure(), h: () => { if (this.partSelected) this.hide(); }, t: () => { if (this.partSelected) this.seeThrough(); }, l: () => this.lookStraight(), a: () => this.showAll(),
        n: () => { step0 += 1; this.sayPointed(this.tag.x, this.tag.y); },
      }[e.key.toLowerCase()];
      if (does && !(button && e.key === " ")) { e.preventDefault(); does(); }
    },
  }));
});
