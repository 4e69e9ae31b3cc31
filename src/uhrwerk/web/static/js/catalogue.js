import { block, json, readMesh } from "./api.js";
import { nested } from "./forms.js";
import { Stage } from "./stage.js";

const mechanism = document.body.dataset.mechanism;
let stage = null; // not reactive

document.addEventListener("alpine:init", () => {
  window.Alpine.data("catalogue", () => ({
    elements: [], kind: "", title: "", name: "", material: "steel", fields: [], maps: [], values: {}, derived: [], datums: "", error: "", busy: false, added: "",

    async init() {
      stage = new Stage(this.$root.querySelector("canvas"));
      this.elements = await json("GET", "/api/elements");
      this.choose(this.elements[0].kind);
    },
    choose(kind) {
      const e = this.elements.find((x) => x.kind === kind);
      Object.assign(this, { kind, title: e.title, name: e.title, maps: Object.keys(e.maps), blanks: e.maps, error: "", added: "" });
      this.values = Object.fromEntries(e.fields.map((f) => [f.path, f.text]));
      this.fields = e.fields.map((f) => ({ ...f, error: "" }));
      this.refresh();
    },
    more(map) {
      const one = map.slice(0, -1), taken = new Set(this.fields.filter((f) => f.kind === "heading").map((f) => f.path));
      let n = 1;
      while (taken.has(`${map}.${one}_${n}`)) n++;
      const at = `${map}.${one}_${n}`, blank = { path: at, label: `${one} ${n}`, text: "", value: "", kind: "heading", error: "" };
      // the rows stand there even while their sizes are still refused
      this.fields.push(blank, ...Object.entries(this.blanks[map]).map(([k, text]) => ({ path: `${at}.${k}`, label: k[0].toUpperCase() + k.slice(1), text, value: "", kind: "formula", error: "" })));
      for (const [k, text] of Object.entries(this.blanks[map])) this.values[`${at}.${k}`] = text;
      this.refresh();
    },
    drop(path) {
      for (const p of Object.keys(this.values)) if (p.startsWith(`${path}.`)) delete this.values[p];
      this.fields = this.fields.filter((f) => f.path !== path && !f.path.startsWith(`${path}.`));
      this.refresh();
    },
    element() { return { kind: this.kind, ...nested(this.fields, this.values) }; },
    fieldText(f) { return this.values[f.path] ?? f.text; },
    fieldError(f) { return f.error || ""; },
    choicesOf(f) { return (f.options || []).map((o) => ({ id: o, name: o.replaceAll("_", " ") })); },
    edit(field, text) {
      this.values[field.path] = text;
      clearTimeout(this.later);
      this.later = setTimeout(() => this.refresh(), 250);
    },
    async refresh() {
      const turn = (this.turn = (this.turn || 0) + 1);
      try {
        const told = await json("POST", "/api/elements/preview", { element: this.element(), mechanism });
        if (turn !== this.turn) return;
        this.error = "";
        this.derived = told.derived;
        this.datums = told.datums.map((d) => `${d.name} (${d.words})`).join(", ");
        const shown = new Map(told.fields.map((f) => [f.path, f.value]));
        for (const f of this.fields) Object.assign(f, { value: shown.get(f.path) ?? "", error: "" });
        const info = { id: "preview", element: this.kind, solid: told.solid, bodies: told.bodies, datums: [], isFrame: this.kind === "frame_plate" };
        await stage.show([info], async (_, body) => readMesh(await block(`/api/elements/solids/${told.solid}/${body}`)));
        stage.fit();
      } catch (error) {
        if (turn === this.turn) this.explain(error);
      }
    },
    explain(error) {
      this.error = error.message;
      for (const f of this.fields) f.error = error.fields?.find((x) => x.path.endsWith(`element.${f.path}`))?.reason || "";
    },
    async add() {
      this.busy = true;
      try {
        const state = await json("GET", `/api/mechanisms/${mechanism}`);
        const list = await json("GET", `/api/mechanisms/${mechanism}/document`);
        const count = Object.keys(list.placed).length;
        const start = count ? { y: `${-40 * count} mm` } : {};
        await json("POST", `/api/mechanisms/${mechanism}/commands`, { revision: state.revision, command: { kind: "add_part", part: { name: this.name, material: this.material, element: this.element() }, start } });
        this.added = `${this.name} added: back to the workspace`;
        this.error = "";
      } catch (error) { this.explain(error); }
      this.busy = false;
    },
  }));
});
