// The catalogue beside the stage: an element stands on the stage while its numbers are chosen, beside what is there.
import { json } from "../shared/api.js";
import { nested } from "../shared/forms.js";
import { GHOSTS, latest, overtake } from "../shared/latest.js";
import { tick, within } from "../shared/page_state.js";

const BESIDE = 0.015; // m between a new part and what is there
const ROOM = 0.03; // m: half of what a new shape first takes

// the n-th of several details lies beside the one before it
function beside(blank, n) {
  const [, number, unit] = /^([\d.]+)(.*)$/.exec(blank.x || "") || [];
  return number === undefined ? blank : { ...blank, x: `${Number(number) * n}${unit}` };
}

/** @param {Page} page */
export function catalogue(page) {
  let later = 0,
    renew = false;
  return /** @satisfies {ThisType<Workspace>} */ ({
    /** @type {Api.Entry[]} */
    elements: [],
    search: "",
    element: null,
    rows: [],
    partName: "",
    material: "",
    derived: [],
    start: {},

    async openCatalogue() {
      this.leave();
      this.go("Parts");
      this.panel = "catalogue";
      this.element = null;
      this.search = "";
      tick(() => within("#catalogue-search")?.focus());
      if (!this.elements.length) this.elements = await json("GET", "/api/elements");
    },
    // groups with their elements, those last used first
    get catalogueGroups() {
      const words = this.search.trim().toLowerCase(),
        used = this.view.placed.map((p) => p.element).reverse();
      const found = this.elements.filter((e) => `${e.title} ${e.about} ${e.group}`.toLowerCase().includes(words));
      const last = [...new Set(used)]
        .map((k) => found.find((e) => e.kind === k))
        .filter(Boolean)
        .slice(0, 3);
      const groups = [...new Set(found.map((e) => e.group))].map((name) => ({
        name,
        elements: found.filter((e) => e.group === name),
      }));
      return last.length ? [{ name: "Recently used", elements: last }, ...groups] : groups;
    },
    chooseElement(e) {
      if (e.kind === "imported") {
        this.openImport();
        return;
      }
      Object.assign(this, {
        element: e,
        values: {},
        errors: {},
        formError: "",
        derived: [],
        rows: e.fields.map((f) => ({ ...f, value: "" })), // values come with the preview, in the mechanism's units
      });
      const taken = new Set(this.view.placed.map((p) => p.name));
      let name = e.title;
      for (let n = 2; taken.has(name); n++) name = `${e.title} ${n}`;
      this.partName = name;
      this.material ||= this.view.materials[0]?.id || "steel";
      this.showElement();
    },
    moreOf(map) {
      const one = map.slice(0, -1),
        taken = new Set(this.rows.filter((f) => f.kind === "heading").map((f) => f.path));
      let n = 1;
      while (taken.has(`${map}.${one}_${n}`)) n++;
      const at = `${map}.${one}_${n}`,
        blank = beside(this.element.maps[map], n);
      // the rows stand there even while their sizes are still refused
      this.rows.push(
        { path: at, label: `${one} ${n}`, text: "", value: "", kind: "heading" },
        ...Object.entries(blank).map(([k, text]) => ({
          path: `${at}.${k}`,
          label: k[0].toUpperCase() + k.slice(1),
          text,
          value: "",
          kind: "formula",
        })),
      );
      this.showElement();
    },
    lessOf(path) {
      for (const p of Object.keys(this.values)) if (p.startsWith(`${path}.`)) delete this.values[p];
      this.rows = this.rows.filter((f) => f.path !== path && !f.path.startsWith(`${path}.`));
      this.showElement();
    },
    get elementMaps() {
      return Object.keys(this.element?.maps || {});
    },
    editElement(f, value) {
      if (f.kind === "kinds") {
        // another kind has fields of its own: they come with the preview
        const own = (path) => path.startsWith(`${f.path}.`);
        for (const p of Object.keys(this.values)) if (own(p)) delete this.values[p];
        this.rows = this.rows.filter((r) => !own(r.path));
        renew = true;
        overtake(GHOSTS); // an answer under way is that of the kind before
      }
      this.values[f.path] = value;
      clearTimeout(later);
      later = setTimeout(() => this.showElement(), 250);
    },
    elementData() {
      return { kind: this.element.kind, ...nested(this.rows, this.values) };
    },
    addCommand() {
      return {
        kind: "add_part",
        part: { name: this.partName, material: this.material, element: this.elementData() },
        start: this.start,
      };
    },
    async showElement() {
      const body = { element: this.elementData(), mechanism: page.mechanism };
      await latest(
        GHOSTS,
        async (when) => {
          const reply = await when(json("POST", "/api/elements/preview", body));
          this.formError = "";
          this.errors = {};
          this.derived = reply.derived;
          tick(() => this.showDrawing(".element-drawing", reply.drawing, "f-"));
          if (renew) this.rows = reply.fields.map((f) => ({ ...f }));
          renew = false;
          const shown = new Map(reply.fields.map((f) => [f.path, f.value]));
          for (const f of this.rows) f.value = shown.get(f.path) ?? "";
          this.start = {};
          if (this.element.kind === "blank") this.besideNothing();
          await this.showGhosts(this.addCommand(), when, (g) => this.besideAll(g));
          page.stage.fit();
        },
        (error) => this.refuseElement(error),
      );
    },
    // the pose of a new part beside all that is there, where it is also to start
    besideAll(g) {
      const box = page.stage.box(page.view.placed.map((p) => p.id));
      if (!box) return g.pose;
      const x = Math.ceil((box.max.x + BESIDE - g.low[0]) * 1e3) / 1e3;
      this.start = { x: `${(x * 1e3).toFixed(0)} mm` };
      return [x, ...g.pose.slice(1)];
    },
    // a part without a shape yet starts beside what is there too, with room for what it is to be
    besideNothing() {
      const box = page.stage.box(page.view.placed.map((p) => p.id));
      if (box) this.start = { x: `${Math.ceil((box.max.x + BESIDE + ROOM) * 1e3)} mm` };
    },
    refuseElement(error) {
      this.formError = error.message;
      for (const f of this.rows) {
        f.value = ""; // of what was shown before
        const own = error.fields?.find((x) => x.path.endsWith(`element.${f.path}`));
        if (own) this.errors[f.path] = own.reason;
      }
    },
    // what is wrong is said by the answer: a refusal that still stands here may be that of numbers before
    async addElement() {
      clearTimeout(later);
      overtake(GHOSTS);
      const name = this.partName,
        before = new Set(this.view.placed.map((p) => p.id));
      if (!Object.keys(this.start).length) this.besideNothing(); // its preview was not waited for
      try {
        await this.command(this.addCommand());
        this.element = null;
        this.values = {};
        this.panel = "item";
        this.once = () => {
          const fresh = this.view.placed.find((p) => !before.has(p.id) && p.name === name);
          if (fresh) this.select(`placed.${fresh.id}`);
        };
      } catch (error) {
        this.refuseElement(error);
      }
    },
    leaveElement() {
      overtake(GHOSTS);
      this.element = null;
      this.values = {};
      this.errors = {};
      this.formError = "";
      this.dropGhosts();
    },
  });
}
