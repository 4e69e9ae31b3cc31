// Build steps of the selected part: seen on the stage, changed, switched off, moved, added.
const NEW = { name: "", kind: "" };

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
};

const addWords = (list) => (ITEMS[list] ? `Add ${ITEMS[list]}` : `Add to ${list.replaceAll("_", " ")}`);

export function building(page) {
  return {
    stepAt: "", // the path of the step that is open
    fresh: { ...NEW },

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
    // the faces a field may name: base planes where it may, then the part's own
    facesOf(f) {
      const p = page.view.placed.find((x) => (f.of ? x.part === f.of : `placed.${x.id}` === this.selected));
      const own = p ? [...new Set(Object.values(p.faces).flat())].filter(Boolean).sort() : [];
      const none = (f.options || []).map((o) => ({ id: o, name: o ? `${o} plane` : "choose" }));
      const named = own.map((o) => ({ id: o, name: o.replaceAll("_", " ").replace(".", " › ") }));
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
      const title = this.stepKinds.find((k) => k.kind === kind).title,
        part = this.card.part,
        known = this.buildSteps.map((s) => s.id);
      this.fresh = { ...NEW };
      const begun = await this.attempt({ kind: "add_step", part, step: { kind, name: title } });
      if (!begun) return;
      this.once = () => {
        this.stepAt = this.buildSteps.find((s) => !known.includes(s.id))?.path || "";
      };
    },
  };
}
