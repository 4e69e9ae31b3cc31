// Drawings that a mechanism keeps: a sheet whose sizes are moved, hidden and added; each change is a revision.
import { json } from "../shared/api.js";
import { latest } from "../shared/latest.js";
import { alongOf, furnish, movedBy } from "./sheet_marks.js";

const mechanism = document.body.dataset.mechanism;
const api = `/api/mechanisms/${mechanism}`;
const NO_FACE = { view: "front", face: "", roughness: "1.6", removal: "any" };
const NOWHERE = { view: "front", kind: "across", a: "", b: "" };
// mm on paper by which a key moves a size, and with Shift
const STEP = 1;
const LEAP = 5;
const KEYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

const mm = (text) => Number.parseFloat(text) || 0;

/** An id that is not taken yet, from a name. @param {string} name @param {Iterable<string>} taken */
function freshId(name, taken) {
  const stem = `d_${name.toLowerCase().replace(/[^a-z0-9]+/g, "_")}`.slice(0, 34).replace(/_+$/, "");
  const known = new Set(taken);
  let id = stem;
  for (let n = 2; known.has(id); n++) id = `${stem}_${n}`;
  return id;
}

document.addEventListener("alpine:init", () => {
  window.Alpine.data("drawings", () => ({
    choices: { drawings: [], parts: [], groups: [] },
    id: "",
    fresh: "whole",
    /** @type {any} */
    sheet: null,
    form: { name: "", projection: "first", section: "yes", hole_table: "no", note: "", texture: "" },
    face: { ...NO_FACE },
    between: { ...NOWHERE },
    after: "",
    chosen: "",
    first: null,
    error: "",
    busy: true,
    revision: 0,
    looked: 0,
    grabbed: null,

    async init() {
      const part = new URLSearchParams(window.location.search).get("part");
      if (part) this.fresh = `part:${part}`;
      await this.look();
      const of = part && (await this.drawingOf(part));
      if (of) await this.open(of);
      else if (part) await this.add();
    },
    // the drawing that a part has already
    async drawingOf(part) {
      for (const [id] of this.choices.drawings) {
        const one = await json("GET", `${api}/sheets/${id}`);
        if (one.stated.part === part) return id;
      }
      return "";
    },
    look() {
      this.busy = true;
      return latest(
        "sheet",
        async (when) => {
          const [state, choices] = await Promise.all([when(json("GET", api)), when(json("GET", `${api}/sheets`))]);
          this.revision = state.revision;
          this.choices = choices;
          if (!choices.drawings.some(([id]) => id === this.id)) this.id = choices.drawings[0]?.[0] ?? "";
          this.show(this.id ? await when(json("GET", `${api}/sheets/${this.id}`)) : null);
          this.busy = false;
        },
        (error) => this.fail(error),
      );
    },
    fail(error) {
      Object.assign(this, { busy: false, error: error.message });
    },
    show(sheet) {
      this.sheet = sheet;
      this.first = null;
      this.$refs.sheet.innerHTML = sheet?.svg ?? "";
      if (!sheet) return;
      const { name, projection, section, hole_table, note, texture } = sheet.stated;
      this.form = {
        name,
        projection,
        section: section ? "yes" : "no",
        hole_table: hole_table ? "yes" : "no",
        note,
        texture,
      };
      furnish(this.$refs.sheet.querySelector("svg"), sheet);
      this.choose(sheet.sizes.some((s) => s.key === this.chosen) ? this.chosen : "");
      this.looked += 1;
    },
    open(id) {
      this.id = id;
      this.chosen = "";
      return this.look();
    },

    // changes

    async send(command) {
      this.error = "";
      try {
        await json("POST", `${api}/commands`, { revision: this.revision, command });
      } catch (error) {
        this.fail(error);
        return false;
      }
      await this.look();
      return true;
    },
    // the drawing with something else in it, as one revision
    change(words, fields) {
      const value = { ...this.sheet.stated, ...fields };
      const command = { kind: "set_value", path: `drawings.${this.id}`, value };
      return this.send({ kind: "together", words: `${value.name}: ${words}`, commands: [command] });
    },
    async add() {
      const [what, of = ""] = this.fresh.split(":");
      const name =
        what === "part"
          ? this.choices.parts.find(([id]) => id === of)?.[1]
          : what === "group"
            ? this.choices.groups.find(([id]) => id === of)?.[1]
            : what === "exploded"
              ? "Exploded view"
              : "Whole";
      if (!name) {
        this.error = "There is no such part any more: choose another.";
        return;
      }
      const drawing = {
        name,
        part: what === "part" ? of : null,
        group: what === "group" ? of : "whole",
        exploded: what === "exploded",
      };
      const id = freshId(
        name,
        this.choices.drawings.map(([known]) => known),
      );
      const before = this.id;
      this.id = id;
      if (!(await this.send({ kind: "add_drawing", id, drawing }))) this.id = before;
    },
    remove() {
      return this.send({ kind: "remove", path: `drawings.${this.id}` });
    },
    async back() {
      this.error = "";
      try {
        await json("POST", `${api}/undo`, { revision: this.revision });
      } catch (error) {
        this.fail(error);
        return;
      }
      await this.look();
    },
    keep(field) {
      const text = this.form[field];
      const value = typeof this.sheet.stated[field] === "boolean" ? text === "yes" : text;
      return this.change(field.replace("_", " "), { [field]: value });
    },
    // a size with something else in its setting
    setSize(size, words, fields) {
      const { sizes, [size.among_own]: own } = this.sheet.stated;
      if (own) {
        const key = size.own_key;
        return this.change(words, { [size.among_own]: { ...own, [key]: { ...own[key], ...fields } } });
      }
      const { view, kind, place, among, value } = size;
      return this.change(words, {
        sizes: { ...sizes, [size.key]: { ...sizes[size.key], view, kind, place, among, value, ...fields } },
      });
    },
    settingOf(size) {
      const { sizes, [size.among_own]: own } = this.sheet.stated;
      return (own ? own[size.own_key] : sizes[size.key]) ?? {};
    },
    move(size, right, up) {
      const was = this.settingOf(size);
      const to = { right: `${mm(was.right) + right} mm`, up: `${mm(was.up) + up} mm` };
      return this.setSize(size, `${size.words} moved`, to);
    },
    hide(size) {
      const { [size.among_own]: own } = this.sheet.stated;
      if (!own) {
        const words = `${size.words} ${size.hidden ? "shown" : "hidden"}`;
        return this.setSize(size, words, { hidden: !size.hidden });
      }
      const { [size.own_key]: _, ...rest } = own;
      return this.change(`${size.words} removed`, { [size.among_own]: rest });
    },
    hideWords(size) {
      if (size.among_own) return "Remove";
      return size.hidden ? "Show" : "Hide";
    },
    forget({ part, key }) {
      const { [key]: _, ...rest } = this.sheet.stated[part];
      return this.change("a setting removed", { [part]: rest });
    },
    keepAfter() {
      return this.setSize(this.chosenSize, `${this.chosenSize.words}: text`, { after: this.after });
    },
    roughen() {
      const own = this.sheet.stated.face_textures;
      const key = freshId("face", Object.keys(own));
      this.chosen = `texture_${key}`;
      const texture = { ...this.face };
      this.face.face = "";
      return this.change("texture added", { face_textures: { ...own, [key]: texture } });
    },
    measure() {
      const own = this.sheet.stated.own_sizes;
      const key = freshId("size", Object.keys(own));
      this.chosen = `own_${key}`;
      const size = { ...this.between };
      this.between = { ...NOWHERE, view: size.view, kind: size.kind };
      return this.change("size added", { own_sizes: { ...own, [key]: size } });
    },

    // the pointer on the sheet

    sizeAt(event) {
      const key = event.target.closest(".size")?.dataset.key;
      return this.sheet?.sizes.find((s) => s.key === key);
    },
    // mm of the sheet for a pixel
    get grain() {
      return 1 / this.$refs.sheet.querySelector("svg").getScreenCTM().a;
    },
    grab(event) {
      const size = this.sizeAt(event);
      const spot = event.target.closest(".spot");
      if (size) {
        event.preventDefault();
        this.choose(size.key);
        this.grabbed = { size, x: event.clientX, y: event.clientY };
        this.$refs.sheet.setPointerCapture(event.pointerId);
      } else if (spot) this.point(spot);
      else this.point(null);
    },
    carried(event) {
      const { size, x, y } = this.grabbed;
      return movedBy(size.kind, (event.clientX - x) * this.grain, (y - event.clientY) * this.grain);
    },
    carry(event) {
      if (!this.grabbed) return;
      const { right, up } = this.carried(event);
      const group = this.$refs.sheet.querySelector(`[data-key="${this.grabbed.size.key}"]`);
      group.setAttribute("transform", `translate(${right} ${-up})`);
    },
    drop(event) {
      if (!this.grabbed) return undefined;
      const { right, up } = this.carried(event);
      const { size } = this.grabbed;
      this.grabbed = null;
      if (!right && !up) return undefined;
      return this.move(size, right, up);
    },
    // the first of two places, then the second
    point(spot) {
      const { view, datum } = spot?.dataset ?? {};
      const place = this.sheet?.spots.find((s) => s.view === view && s.datum === datum);
      for (const one of this.$refs.sheet.querySelectorAll(".spot.first")) one.classList.remove("first");
      if (!place || !this.first) {
        this.first = place ?? null;
        spot?.classList.add("first");
        return undefined;
      }
      const kind = alongOf(this.first, place);
      const a = this.first.datum;
      this.first = null;
      if (!kind) {
        this.error =
          "These two places have no distance along the width or the height of one view: point at two others.";
        return undefined;
      }
      this.between = { view: place.view, kind, a, b: place.datum };
      return this.measure();
    },
    choose(key) {
      this.chosen = key;
      for (const g of this.$refs.sheet.querySelectorAll(".size")) g.classList.toggle("chosen", g.dataset.key === key);
      this.after = this.chosenSize ? (this.settingOf(this.chosenSize).after ?? "") : "";
    },
    focusSize(event) {
      const size = this.sizeAt(event);
      if (size) this.choose(size.key);
    },
    async byKey(event) {
      if (event.key === "z" && (event.ctrlKey || event.metaKey) && !event.target.matches("input, textarea")) {
        event.preventDefault();
        return this.back();
      }
      const size = this.sizeAt(event);
      if (!size) return undefined;
      const way = KEYS[event.key];
      const moves = way && movedBy(size.kind, way[0], way[1]);
      if (event.key !== "Delete" && event.key !== "Backspace" && !(moves?.right || moves?.up)) return undefined;
      event.preventDefault();
      const by = event.shiftKey ? LEAP : STEP;
      await (moves ? this.move(size, by * moves.right, by * moves.up) : this.hide(size));
      const again = this.$refs.sheet.querySelector(`[data-key="${size.key}"]`);
      (again ?? this.$refs.sheet.querySelector(".size"))?.focus();
      return undefined;
    },

    get empty() {
      return !this.busy && !this.choices.drawings.length;
    },
    get ofPart() {
      return Boolean(this.sheet?.stated.part);
    },
    get chosenSize() {
      return this.sheet?.sizes.find((s) => s.key === this.chosen);
    },
    get places() {
      const { view, kind } = this.between;
      return (this.sheet?.spots ?? []).filter((s) => s.view === view && (s.known === "both" || s.known === kind));
    },
    get faces() {
      return (this.sheet?.faces ?? []).filter((f) => f.view === this.face.view);
    },
    get takesText() {
      return Boolean(this.chosenSize) && this.chosenSize.kind !== "texture";
    },
    get canMeasure() {
      return Boolean(this.between.a && this.between.b && this.between.a !== this.between.b);
    },
    get hint() {
      if (this.first) return `From ${this.first.label}: point at the other place of this view, or beside it to stop.`;
      if (!this.ofPart) return "Item numbers and the parts list follow the mechanism.";
      return "Drag a size, or move it by arrows; Delete hides it. Point at two places to add a size.";
    },
    get shownAs() {
      return this.looked;
    },
    file(suffix) {
      return `${api}/sheets/${this.id}/${this.id}${suffix}`;
    },
  }));
});
