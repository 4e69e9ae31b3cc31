// Fields: what the one field component asks of a page, and forms made from the kinds that there are.
import { json } from "./api.js";

const NOTHING = { path: "", text: "" };
const CHOSEN = ["choice", "reference", "kinds", "face", "step", "corner", "number", "datum"];
const LONG = 10; // characters that are seen of a formula in its usual place

// Texts by path, as one object; a reference to a body of a placed part is "placed/body".
export function nested(fields, values) {
  const out = {};
  const put = (path, value) => {
    const steps = path.split(".");
    let at = out;
    for (const s of steps.slice(0, -1)) at = at[s] ??= {};
    at[steps.at(-1)] = value;
  };
  for (const f of fields) {
    if (f.kind === "heading") continue;
    const value = values[f.path] ?? f.text;
    if (value === "" && f.kind !== "text") continue;
    if (f.kind === "datum") {
      const [placed, datum] = value.split("/");
      put(f.path, { placed, datum });
    } else if (f.kind === "reference" && f.collection === "placed" && String(value).includes("/")) {
      const [placed, body] = value.split("/");
      put(f.path, placed);
      put(f.path.replace(/placed$/, "body"), body);
    } else if (f.kind === "kinds") put(`${f.path.replace(/\.kind$/, "")}.kind`, value);
    else put(f.path, value);
  }
  return out;
}

/** @param {Page} page */
export function forms(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    /** @type {Api.Choices} */
    choices: { requirements: [], drivers: [], curves: [], steps: [] },
    /** @type {Record<string, string>} */
    values: {},
    typed: NOTHING,
    kindSearch: "",

    // kinds whose name or words hold what is searched
    kindsFound(kinds) {
      const words = this.kindSearch.trim().toLowerCase();
      return kinds.filter((k) => `${k.title} ${k.about || ""}`.toLowerCase().includes(words));
    },
    pictureOf(what, kind) {
      return `${document.body.dataset.static}/pictures/${what}-${kind}.svg`;
    },
    get formTitle() {
      return (this.choices[`${this.panel}s`] || []).find((k) => k.kind === this.form.kind)?.title || "";
    },
    async loadChoices() {
      this.choices = await json("GET", "/api/kinds");
    },
    isChosen(f) {
      return CHOSEN.includes(f.kind);
    },
    // what may be chosen in a field
    choicesOf(f) {
      if (f.kind === "kinds") return Object.entries(f.names).map(([id, name]) => ({ id, name }));
      if (f.kind === "face") return this.facesOf(f);
      if (f.kind === "step") return this.earlierSteps(f);
      if (f.kind === "number") return this.numbersOf(f);
      if (f.kind === "corner") return this.cornersOf(f);
      if (f.kind === "datum") return [{ id: "", name: "choose" }, ...this.datumChoices];
      if (f.kind === "choice") return (f.options || []).map((o) => ({ id: o, name: o.replaceAll("_", " ") }));
      const none = { id: "", name: "choose" },
        view = page.view;
      if (f.collection === "placed") return [none, ...this.bodyChoices];
      if (f.collection === "joints") return [none, ...view.driveable];
      if (f.collection === "parts") return [{ id: "", name: "this part" }, ...view.parts];
      if (f.collection === "groups")
        return [{ id: "whole", name: "the whole" }, { id: "moving", name: "what moves" }, ...view.groups];
      return [none, ...(view[f.collection] || [])];
    },
    // a formula that is too long for its place beside the label gets a line of its own
    rowClass(f) {
      if (f.kind === "heading") return "heading";
      if (["kinds", "face", "lines", "members", "datum"].includes(f.kind) || String(this.fieldText(f)).length > LONG)
        return "long";
      return f.kind === "text" && !f.value ? "words" : "";
    },
    // what is being typed stays while an evaluation arrives; what was refused of it is said no longer, so that nothing below it
    // moves away under the pointer when it is left
    typing(f, text) {
      delete this.errors[f.path];
      this.typed = { path: f.path, text };
    },
    fieldText(f) {
      if (this.typed.path === f.path) return this.typed.text;
      return this.values[f.path] ?? this.kept[f.path] ?? f.text;
    },
    fieldError(f) {
      return this.errors[f.path] || "";
    },
    get formFields() {
      const kind = (this.choices[`${this.panel}s`] || []).find((k) => k.kind === this.form.kind);
      if (!kind) return [];
      if (this.panel !== "driver") return kind.fields;
      // a programme's segments are drawn in the timing chart, and stand on its card
      const own = kind.fields.filter((f) => !f.path.startsWith("segments"));
      return own.map((f) => (f.path === "joint" ? { ...f, label: "Joint" } : f));
    },
    get asksDatum() {
      return this.formFields.some((f) => f.kind === "datum");
    },
    // a datum pointed at goes to the first place that is open, else to the last
    takeDatum(end) {
      const datumFields = this.formFields.filter((f) => f.kind === "datum"),
        open = datumFields.find((f) => !this.fieldText(f)) || datumFields.at(-1);
      if (open) this.fill(open, end);
    },
    get formAbout() {
      return (this.choices[`${this.panel}s`] || []).find((k) => k.kind === this.form.kind)?.about || "";
    },
    chooseKind(kind) {
      // what is referred to stays chosen
      const kept = this.formFields.filter((f) => f.kind === "reference").map((f) => [f.path, this.values[f.path]]);
      const fields = { errors: {}, formError: "", kindSearch: "" };
      Object.assign(this, fields, { values: Object.fromEntries(kept.filter(([, v]) => v)) });
      this.form.kind = kind;
      if (this.panel === "driver" && this.values.joint) this.startAsItStands(this.values.joint);
    },
    fill(f, value) {
      this.typed = NOTHING;
      this.values[f.path] = value;
      delete this.errors[f.path];
      if (this.panel === "driver" && f.path === "joint") {
        this.wayOf(value);
        this.startAsItStands(value);
      }
    },
    // a drive turns what only turns, and slides what only slides
    wayOf(joint) {
      const { turning, sliding } = page.view.driveable.find((j) => j.id === joint) || {},
        { kind } = this.form;
      if (kind.startsWith("turn") && sliding && !turning)
        this.form.kind = kind === "turning" ? "sliding" : kind.replace("turn_", "slide_");
      if (kind.startsWith("slid") && turning && !sliding)
        this.form.kind = kind === "sliding" ? "turning" : kind.replace("slide_", "turn_");
    },
    // a drive begins where its joint stands, unless it is stated otherwise
    startAsItStands(joint) {
      const own = this.usualDriver(joint);
      if (own) this.values.start = own.start;
    },
    // the drive that runs a joint through its limits, where the kind chosen moves what that does
    usualDriver(joint) {
      const driveable = page.view.driveable.find((j) => j.id === joint),
        own = driveable?.driver;
      return own && own.kind.slice(0, 4) === this.form.kind.slice(0, 4) ? { ...own, far: driveable.far } : null;
    },
    // a programme goes to the farther limit of its joint and back
    toItsLimits(driver) {
      const own = this.usualDriver(driver.joint);
      if (!driver.kind.endsWith("_programme") || !own?.far) return driver;
      const { far } = own,
        { start } = driver;
      const segments = {
        out: { to: far, over: "120 deg" },
        stay: { to: far, over: "60 deg" },
        back: { to: start, over: "120 deg" },
        rest: { to: start, over: "60 deg" },
      };
      return { ...driver, segments };
    },
    // the item that the form describes; null, with the reasons shown, where something is left open
    filled(what) {
      const kind = this.choices[`${what}s`].find((k) => k.kind === this.form.kind),
        fields = this.formFields;
      const open = fields.find((f) => ["reference", "datum"].includes(f.kind) && !this.fieldText(f));
      if (open) {
        this.errors[open.path] = "choose one";
        this.formError = `${open.label}: choose one.`;
        return null;
      }
      return { kind: kind.kind, name: this.form.name || kind.title, ...nested(fields, this.values) };
    },
    async submitForm(command) {
      this.formError = "";
      this.errors = {};
      try {
        await this.command(command);
        this.values = {};
        this.leave();
      } catch (error) {
        for (const f of error.fields || []) {
          const own = this.formFields.find((x) => f.path.endsWith(`.${x.path}`));
          if (own) this.errors[own.path] = f.reason;
        }
        this.formError = error.fields?.[0]?.reason || error.message;
      }
    },
    async addDriver() {
      const stated = this.filled("driver");
      if (!stated) return;
      const driver = this.toItsLimits(stated);
      const lasts = { kind: "set_value", path: "cycle.duration", value: this.form.duration },
        commands = [{ kind: "add_driver", driver }, ...(lasts.value ? [lasts] : [])];
      await this.submitForm({ kind: "together", commands, words: `driver added: ${driver.name}` });
    },
    async addRequirement() {
      const requirement = this.filled("requirement");
      if (requirement) await this.submitForm({ kind: "add_requirement", requirement });
    },
  });
}
