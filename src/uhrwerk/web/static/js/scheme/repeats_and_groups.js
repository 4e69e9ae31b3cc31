// Repeats and groups: which parts, how often, round or along or behind what.
/** @param {Page} page */
export function repeating(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    openRepeat(kind, members) {
      this.go("Joints");
      this.panel = "repeat";
      this.formError = "";
      this.form = {
        kind,
        name: "",
        members: [...members],
        datum: "",
        count: kind === "ring" ? "3" : "2",
        step: "",
        pitch: "20 mm",
        x: "40 mm",
        y: "0 mm",
        z: "0 mm",
      };
    },
    startRepeat() {
      this.openRepeat("ring", this.partSelected ? [this.partSelected] : []);
    },
    startGroup() {
      this.go("Parts");
      this.panel = "group";
      this.formError = "";
      this.form = { name: "", members: this.partSelected ? [this.partSelected] : [] };
    },
    useAgain() {
      const g = this.view.groups.find((x) => `groups.${x.id}` === this.selected);
      if (g) {
        this.openRepeat("copy", g.placed);
        this.form.name = `${g.name} copy`;
      }
    },
    get isGroup() {
      return this.selected.startsWith("groups.");
    },
    isMember(p) {
      return (this.form.members || []).includes(p);
    },
    toggleMember(p) {
      this.form.members = this.toggled(this.form.members, p);
    },
    get repeatDatums() {
      const kind = { ring: "axis", mirror: "plane" }[this.form.kind];
      return this.datumChoices.filter((c) => {
        const [placed, datum] = c.id.split("/");
        const d = page.view.placed.find((p) => p.id === placed).datums.find((x) => x.id === datum);
        return !kind || d.kind === kind;
      });
    },
    get repeatDatumLabel() {
      return { ring: "Round", row: "Along", mirror: "Behind" }[this.form.kind] || "";
    },
    async addRepeat() {
      const f = this.form;
      if (!f.members.length) {
        this.formError = "Choose the parts to repeat.";
        return;
      }
      if (f.kind !== "copy" && !f.datum) {
        this.formError = `Choose the ${{ ring: "axis", row: "direction", mirror: "face" }[f.kind]}.`;
        return;
      }
      const [placed, datum] = f.datum.split("/"),
        at = { placed, datum };
      const name = f.name || { ring: "Ring", row: "Row", mirror: "Image", copy: "Copy" }[f.kind];
      const repeat = { kind: f.kind, name, placed: f.members };
      if (f.kind === "ring") Object.assign(repeat, { about: at, count: f.count, step: f.step });
      if (f.kind === "row") Object.assign(repeat, { along: at, count: f.count, pitch: f.pitch });
      if (f.kind === "mirror") repeat.about = at;
      if (f.kind === "copy") Object.assign(repeat, { count: f.count, shift: { x: f.x, y: f.y, z: f.z } });
      await this.submit({ kind: "add_repeat", repeat });
    },
    async addGroup() {
      if (!this.form.members.length) {
        this.formError = "Choose the parts of the group.";
        return;
      }
      await this.submit({ kind: "add_group", group: { name: this.form.name || "Group", placed: this.form.members } });
    },
  });
}
