// Build steps of the selected part: seen on the stage, changed, switched off, moved, added.
import { json } from "../shared/api.js";
import { about, tick, within } from "../shared/page_state.js";

const REPEATED = ["extrude", "cut", "revolve", "hole"];

// what one item of a list in a step is called
const ITEMS = {
  spots: "point",
  of: "outline",
  corners: "corner",
  circles: "circle",
  runs: "piece",
  steps: "step",
  faces: "face",
  open: "opening",
  changes: "change",
  relations: "relation",
};

const addWords = (list) => (ITEMS[list] ? `Add ${ITEMS[list]}` : `Add to ${list.replaceAll("_", " ")}`);

/** @param {Page} page */
export function building(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    stepAt: "", // the path of the step that is open
    stepListOpen: false,

    get buildSteps() {
      return this.card.steps || [];
    },
    get openStep() {
      return this.buildSteps.find((s) => s.path === this.stepAt) || null;
    },
    get hasSteps() {
      return this.partSelected !== "" && !this.isCopy;
    },
    get stepKinds() {
      return this.choices.steps;
    },
    stepWords(s) {
      return { off: "off", failed: "failed", waits: "waits" }[s.state] || "";
    },
    openOrClose(s) {
      this.stepAt = this.stepAt === s.path ? "" : s.path;
      this.showStep(s);
      this.placeHandles();
    },
    // the faces that a step made stand out on the stage
    showStep(s) {
      const placed = this.selected.replace("placed.", "");
      page.stage.markFaces(s ? placed : "", s ? `${s.id}.` : "");
    },
    // the steps before the open one whose tools can be done again
    earlierSteps(f) {
      const upTo = this.buildSteps.findIndex((s) => s.path === this.stepAt),
        before = this.buildSteps.slice(0, Math.max(upTo, 0)).filter((s) => REPEATED.includes(s.kind));
      const known = [{ id: "", name: "choose" }, ...before.map((s) => ({ id: s.id, name: s.name }))];
      return known.some((o) => o.id === f.text) ? known : [...known, { id: f.text, name: `${f.text} (deleted)` }];
    },
    // the corners of the outline that a relation belongs to; a piece is known by the corner at which it begins
    cornersOf(f) {
      const start = `${f.path.split(".relations.")[0]}.corners.`,
        what = f.label === "Piece" || (f.label === "Other" && this.isOfPieces(f)) ? "piece" : "corner";
      const corners = this.openStep.fields.filter((x) => x.kind === "heading" && x.path.startsWith(start));
      return [
        { id: "", name: "choose" },
        ...corners.map((x, k) => ({ id: x.path.slice(start.length), name: `${what} ${k + 1}` })),
      ];
    },
    // every number of the part that the one on the card is like, with what it is there
    originalNumbers(f) {
      const start = f.path.split(".changes.")[0],
        inCatalogue = !f.path.includes(".changes."),
        original = inCatalogue ? this.values.part : this.card.fields.find((x) => x.path === `${start}.part`)?.text,
        placed = page.view.placed.find((p) => p.part === original),
        card = page.view.cards[`placed.${placed?.id}`];
      const named = (fields, of) =>
        fields
          .filter((x) => x.kind === "formula")
          .map((x) => ({
            id: x.path.replace(`parts.${original}.`, ""),
            name: `${of}${x.label}: ${x.text}`,
            text: x.text,
          }));
      return card
        ? [...named(card.fields, ""), ...(card.steps || []).flatMap((s) => named(s.fields, `${s.name}, `))]
        : [];
    },
    numbersOf(f) {
      return [{ id: "", name: "choose" }, ...this.originalNumbers(f)];
    },
    isOfPieces(f) {
      return this.openStep.fields.some((x) => x.path === f.path.replace(/\.other$/, ".piece"));
    },
    // the faces a field may name: base planes where it may, then the part's own
    facesOf(f) {
      const p = page.view.placed.find((x) => (f.of ? x.part === f.of : `placed.${x.id}` === this.selected));
      const own = p ? [...new Set(Object.values(p.faces).flat())].filter(Boolean) : [],
        stated = (p?.datums || []).map((d) => d.id).filter((id) => /\.(plane|axis)$/.test(id)),
        labels = new Map((p?.datums || []).map((d) => [d.id, d.name]));
      const none = (f.options || []).map((o) => ({ id: o, name: o ? `${o} plane` : "choose" }));
      const named = [...new Set([...own, ...stated])]
        .map((o) => ({ id: o, name: labels.get(o) || o.replaceAll("_", " ").replace(".", ": ") }))
        .sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true }));
      const known = [...none, ...named];
      return known.some((o) => o.id === f.text) ? known : [...known, { id: f.text, name: `${f.text} (deleted)` }];
    },
    get moreOfStep() {
      return Object.entries(this.openStep?.more || {}).map(([path, blank]) => ({
        path,
        blank,
        words: addWords(path.split(".").at(-1)),
      }));
    },
    async addToStep(m) {
      const start = `${m.path}.`;
      const taken = this.openStep.fields.map((f) => f.path).filter((p) => p.startsWith(start));
      const ids = new Set(taken.map((p) => p.slice(start.length).split(".")[0]));
      let n = ids.size + 1;
      while (ids.has(`n_${n}`)) n++;
      await this.attempt({ kind: "set_value", path: `${m.path}.n_${n}`, value: m.blank });
    },
    toggleStepList() {
      Object.assign(this, { stepListOpen: !this.stepListOpen, kindSearch: "" });
      if (!this.stepListOpen) return;
      tick(() => {
        within("#step-new").scrollIntoView({ block: "start" });
        within("#steps-search").focus({ preventScroll: true });
      });
    },
    async switchStep(s) {
      await this.attempt({ kind: "set_value", path: `${s.path}.off`, value: s.state !== "off" });
    },
    renameStep(s, name) {
      this.attempt({ kind: "set_value", path: `${s.path}.name`, value: name });
    },
    // up or down by one among the part's steps
    async moveStep(s, way) {
      const ids = this.buildSteps.map((x) => x.id),
        at = ids.indexOf(s.id) + way;
      if (at < 0 || at >= ids.length) return;
      const before = way < 0 ? ids[at] : ids[at + 1] || null;
      await this.attempt({ kind: "move_step", part: this.card.part, step: s.id, before });
    },
    async removeStep(s) {
      if (await this.attempt({ kind: "remove", path: s.path })) this.stepAt = "";
    },
    async addStep(kind) {
      if (!kind) return;
      this.stepListOpen = false;
      const [, datum = ""] = this.growAt.split("/");
      try {
        const { command } = await json("POST", about("new-step"), { part: this.card.part, kind, datum });
        await this.beginStep(command.step);
      } catch (error) {
        this.explain(error);
      }
    },
    // a new step is a draft: its numbers are filled in together, and seen as they are typed
    async beginStep(step) {
      const known = this.buildSteps.map((s) => s.id);
      this.startDraft(`${step.name} added`);
      this.once = () => {
        this.stepAt = this.buildSteps.find((s) => !known.includes(s.id))?.path || "";
        tick(() => {
          within(".step-open")?.scrollIntoView({ block: "start" });
          within(".step-open .fields :is(input, select)")?.focus({ preventScroll: true });
        });
      };
      if (await this.attempt({ kind: "add_step", part: this.card.part, step })) return;
      this.once = null;
      if (!this.draft.commands.length) await this.discardDraft();
    },
    // steps whose tools can be done again elsewhere
    get canRepeatStep() {
      return REPEATED.includes(this.openStep?.kind);
    },
    async repeatStep(s) {
      await this.beginStep({ kind: "repeat", name: `${s.name} repeated`, steps: { a: { step: s.id } } });
    },
  });
}
