// Layers for print: settings, the slider, and what was found; regions are drawn as they come from the server.
import { json } from "../shared/api.js";
import { latest } from "../shared/latest.js";
import { bedDrawing, findingMarks, TITLES } from "./layer_drawing.js";

const mechanism = document.body.dataset.mechanism;
const api = `/api/mechanisms/${mechanism}`;
const FIELDS = ["requirement", "of", "at_least", "layer", "line", "down"];
// ms for which the slider rests before the exact solids are cut
const REST = 250;

document.addEventListener("alpine:init", () => {
  window.Alpine.data("layers", () => ({
    form: Object.fromEntries(FIELDS.map((f) => [f, ""])),
    errors: Object.fromEntries(FIELDS.map((f) => [f, ""])),
    error: "",
    busy: false,
    busyWords: "",
    /** @type {any} */
    result: null,
    /** @type {any} */
    layer: null,
    at: 0,
    revision: 0,

    async init() {
      this.form.requirement = new URLSearchParams(window.location.search).get("requirement") ?? "";
      await this.cut();
      const fault = this.result?.findings.find((f) => f.fails);
      if (fault) this.go(fault);
    },
    get query() {
      const stated = FIELDS.filter((f) => this.form[f]).map((f) => [f, this.form[f]]);
      return new URLSearchParams(stated).toString();
    },
    choose() {
      for (const f of FIELDS) if (f !== "requirement") this.form[f] = "";
      return this.cut();
    },
    async cut() {
      this.errors = Object.fromEntries(FIELDS.map((f) => [f, ""]));
      this.error = "";
      Object.assign(this, { busy: true, busyWords: "Cutting layers" });
      await latest(
        "layers",
        async (when) => {
          const [state, result] = await Promise.all([
            when(json("GET", api)),
            when(json("GET", `${api}/layers?${this.query}`)),
          ]);
          this.revision = state.revision;
          // the first print gap of the mechanism is what a page that names none is about
          if (!this.result && !this.form.requirement && result.requirements.length) {
            this.form.requirement = result.requirements[0][0];
            this.busy = false;
            return this.cut();
          }
          this.result = result;
          Object.assign(this.form, result.setting);
          this.at = Math.min(this.at, this.last);
          this.busy = false;
          this.$refs.marks.innerHTML = findingMarks(result);
          return this.show();
        },
        (error) => {
          this.busy = false;
          for (const f of error.fields ?? []) if (f.path in this.errors) this.errors[f.path] = f.reason;
          if (!Object.values(this.errors).some(Boolean)) this.error = error.message;
        },
      );
    },
    show() {
      return latest(
        "layer",
        async (when) => {
          const path = `${api}/layers/${this.at}?${this.query}`;
          this.draw(await when(json("GET", `${path}&exact=false`)));
          await when(new Promise((done) => setTimeout(done, REST)));
          this.draw(await when(json("GET", path)));
        },
        (error) => {
          this.error = error.message;
        },
      );
    },
    draw(layer) {
      this.layer = layer;
      this.$refs.drawing.innerHTML = bedDrawing(this.result, layer);
    },
    go(finding) {
      this.at = finding.first;
      return this.show();
    },
    stepByKey(event) {
      const by = { ArrowUp: 1, ArrowDown: -1, PageUp: 10, PageDown: -10, Home: -Infinity, End: Infinity }[event.key];
      if (!by || !this.result || event.target.matches("input:not([type=range]), select")) return;
      event.preventDefault();
      this.at = Math.max(0, Math.min(this.last, this.at + by));
      this.show();
    },
    async save() {
      const { requirement: id, down, ...rest } = this.form;
      const [placed, ...datum] = down.split("/");
      const face = down === "-" ? null : { placed, datum: datum.join("/") };
      const values = { ...rest, down: face };
      const command = id
        ? {
            kind: "together",
            words: "printed otherwise",
            commands: Object.entries(values).map(([f, value]) => ({
              kind: "set_value",
              path: `requirements.${id}.${f}`,
              value,
            })),
          }
        : { kind: "add_requirement", requirement: { kind: "print_gap", name: "Print gap", ...values } };
      try {
        await json("POST", `${api}/commands`, { revision: this.revision, command });
        if (!id) this.result = null; // the page is about the new one now
        await this.cut();
      } catch (error) {
        this.error = error.message;
      }
    },

    get last() {
      return this.result ? Math.max(0, this.result.count - 1) : 0;
    },
    get heightWords() {
      return this.layer ? `${this.layer.height.toFixed(2)} mm` : "";
    },
    get layerWords() {
      return this.layer ? `layer ${this.layer.layer + 1} of ${this.result.count}` : "";
    },
    get exactWords() {
      if (!this.layer) return "";
      if (this.layer.exact) return "exact";
      return `within ${this.layer.within.toFixed(3)} mm${this.layer.reason ? `: ${this.layer.reason}` : ""}`;
    },
    get drawingWords() {
      return `${this.layerWords}, ${this.shownParts.map((p) => p.words).join(", ")}`;
    },
    get shownParts() {
      if (!this.layer) return [];
      return this.layer.parts.map(({ id, area }) => {
        const part = this.result.parts.find((p) => p.id === id);
        return { ...part, words: `${part.name} ${area.toFixed(1)} mm²`, link: `/mechanisms/${mechanism}#placed.${id}` };
      });
    },
    get findings() {
      if (!this.result) return [];
      const height = this.result.height;
      return this.result.findings.map((f, key) => ({
        ...f,
        key,
        title: TITLES[f.kind],
        where: `${(f.first * height).toFixed(2)} to ${((f.last + 1) * height).toFixed(2)} mm`,
        here: this.at >= f.first && this.at <= f.last,
        mark: f.fails ? "fails" : "",
      }));
    },
    get findingsTitle() {
      const n = this.findings.length;
      return n === 1 ? "1 finding" : `${n} findings`;
    },
    get nothingFound() {
      return Boolean(this.result) && !this.findings.length;
    },
    get verdictClass() {
      return { true: "holds", false: "fails", null: "open" }[String(this.result?.holds ?? null)];
    },
    get verdictWord() {
      return { true: "Holds.", false: "Fails.", null: "Undecided." }[String(this.result?.holds ?? null)];
    },
    get requirementLink() {
      return this.form.requirement ? `/mechanisms/${mechanism}#requirements.${this.form.requirement}` : "";
    },
    get requirements() {
      return (this.result?.requirements ?? []).map(([id, name]) => ({ id, name }));
    },
    get groups() {
      return (this.result?.groups ?? []).map(([id, name]) => ({ id, name }));
    },
    get faces() {
      return (this.result?.faces ?? []).map(([id, name]) => ({ id, name }));
    },
    get facts() {
      return (this.result?.facts ?? []).map(([name, value]) => ({ name, value }));
    },
    get canSave() {
      return Boolean(this.result) && (!this.form.requirement || this.result.changed);
    },
    get saveWords() {
      return this.form.requirement ? "Save to the requirement" : "Add as requirement";
    },
    get files() {
      const stated = {
        ...(this.form.of && this.form.of !== "whole" ? { group: this.form.of } : {}),
        ...(this.form.down && this.form.down !== "-" ? { down: this.form.down } : {}),
      };
      const query = new URLSearchParams(stated).toString();
      const file = (suffix) => `${api}/files/${mechanism}${suffix}${query ? `?${query}` : ""}`;
      return { threeMf: file(".3mf"), stl: file(".stl") };
    },
  }));
});
