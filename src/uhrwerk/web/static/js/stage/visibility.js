// What is seen of the mechanism: hidden and see-through parts, a section, views from all sides.
import { lengthOf, PER_METRE } from "../shared/lengths.js";

/** @param {Page} page */
export function seeing(page) {
  const id = (path) => (path.startsWith("placed.") ? path.slice(7) : "");

  return /** @satisfies {ThisType<Workspace>} */ ({
    /** @type {string[]} */
    hidden: [],
    /** @type {string[]} */
    clear: [],
    sectionAxis: "",
    sectionAt: 0, // where it lies on its axis, m
    sectionReach: [0, 1],
    sectionError: "",

    get partSelected() {
      return id(this.selected);
    },
    get isHidden() {
      return this.hidden.includes(this.partSelected);
    },
    get isClear() {
      return this.clear.includes(this.partSelected);
    },
    get isLeftOut() {
      return !!this.view.placed.find((p) => p.id === this.partSelected)?.leftOut;
    },
    get isCopy() {
      return this.selected.includes("__");
    },
    toggled(list, one) {
      return list.includes(one) ? list.filter((x) => x !== one) : [...list, one];
    },
    hide() {
      this.hidden = this.toggled(this.hidden, this.partSelected);
      this.see();
    },
    onlyThis() {
      this.hidden = this.view.placed.map((p) => p.id).filter((p) => p !== this.partSelected);
      this.see();
    },
    seeThrough() {
      this.clear = this.toggled(this.clear, this.partSelected);
      this.see();
    },
    showAll() {
      this.hidden = [];
      this.clear = [];
      this.sectionAxis = "";
      this.see();
    },
    get somethingHidden() {
      return this.hidden.length + this.clear.length > 0 || this.sectionAxis !== "";
    },
    see() {
      page.stage.see(this.hidden, this.clear);
      page.stage.section(this.sectionAxis, Number(this.sectionAt));
    },
    chooseSection() {
      this.sectionError = "";
      if (this.sectionAxis) {
        this.sectionReach = page.stage.extentAlong(this.sectionAxis);
        this.sectionAt = (this.sectionReach[0] + this.sectionReach[1]) / 2;
      }
      this.see();
    },
    get sectionLow() {
      return this.sectionReach[0];
    },
    get sectionHigh() {
      return this.sectionReach[1];
    },
    get sectionStep() {
      return (this.sectionReach[1] - this.sectionReach[0]) / 400 || 1e-6;
    },
    get sectionText() {
      const unit = this.view.units.length;
      return `${Number((Number(this.sectionAt) * PER_METRE[unit]).toFixed(unit === "in" ? 4 : 3))} ${unit}`;
    },
    // a place typed as a number, with a unit or without
    typeSection(text) {
      const at = lengthOf(text, this.view.units.length);
      this.sectionError = at === null ? "Type a length, such as 12.5 mm" : "";
      if (at === null) return;
      this.sectionAt = at;
      this.see();
    },
    leaveOut() {
      this.attempt({ kind: "set_value", path: `placed.${this.partSelected}.left_out`, value: !this.isLeftOut });
    },
    look(from) {
      if (from) page.stage.look(from);
    },
    lookStraight() {
      if (!page.stage.lookStraight(page.pointed)) this.hint = "Point at a face first, then press L";
    },
  });
}
