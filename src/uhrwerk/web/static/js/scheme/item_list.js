// The steps of the work and the list of what each of them is about, searched, in sections, repeats folded.
import { tick } from "../shared/page_state.js";

const HOW = { ring: "round", row: "along", mirror: "behind", copy: "again" };
const LONG = 14; // items from which a list is searched

const partNote = (p) => (p.isFrame ? "frame" : p.leftOut ? "excluded" : p.loose ? "loose" : p.hint);

// {name, items: [{path, name, note}]} of a step; empty sections are left out
function sections(v, step, sign) {
  const of = (collection, list, note) =>
    list.map((x) => ({ path: `${collection}.${x.id}`, name: x.name, note: note(x) }));
  const all = {
    Joints: [
      { name: "Repeats", items: of("repeats", v.repeats, (r) => HOW[r.kind]) },
      { name: "Joints", items: of("joints", v.joints, (j) => j.kind) },
      { name: "Relations", items: of("relations", v.relations, (j) => j.kind.replaceAll("_", " ")) },
      { name: "Pairs", items: of("pairs", v.pairs, (p) => p.ratio || p.kind.replaceAll("_", " ")) },
    ],
    Drive: [
      { name: "Drivers", items: of("drivers", v.drivers, (d) => d.note) },
      {
        name: "Cycle",
        items: [{ path: "cycle", name: "Cycle", note: v.duration ? `${v.duration.toFixed(3)} s` : "" }],
      },
    ],
    Curves: [{ name: "Curves", items: of("curves", v.curves, (c) => c.note) }],
    Checks: [
      {
        name: "Requirements",
        items: v.verdicts.map((x) => ({
          path: `requirements.${x.requirement}`,
          name: `${sign(x)} ${x.name}`,
          note: x.valueText,
        })),
      },
    ],
    Parts: [
      { name: "Parts", items: of("placed", v.placed, partNote) },
      {
        name: "Mechanism",
        items: [{ path: "units", name: "Units", note: [v.units.length, v.units.mass].filter(Boolean).join(", ") }],
      },
      { name: "Groups", items: of("groups", v.groups, (g) => `${g.placed.length} parts`) },
      {
        name: "Parameters",
        items: v.parameters.map((p) => ({
          path: `parameters.${p.name}`,
          name: p.name,
          note: p.stale ? `${p.formula} · old` : p.formula,
        })),
      },
    ],
  };
  return (all[step] || all.Parts).filter((s) => s.items.length);
}

// copies of a repeat stand below their original, folded
function folded(items, open) {
  const original = (i) => (i.path.includes("__") ? i.path.split("__")[0] : i.path),
    copies = new Map();
  for (const i of items) if (i.path.includes("__")) copies.set(original(i), [...(copies.get(original(i)) || []), i]);
  return items.flatMap((i) => {
    if (i.path.includes("__")) return [];
    const own = copies.get(i.path);
    if (!own) return [i];
    const shown = open.includes(i.path);
    const fold = {
      path: `${i.path} copies`,
      name: shown ? "Hide its copies" : `show ${own.length} copies`,
      note: "",
      fold: i.path,
    };
    return shown ? [i, ...own, fold] : [i, fold];
  });
}

/** @param {Page} page */
export function items(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    step: "Parts",
    itemSearch: "",
    unfolded: [],

    get steps() {
      const v = this.view,
        loose = v.mobility ? v.mobility.loose.length : 0,
        free = v.mobility ? v.mobility.undriven : 0;
      const failing = v.verdicts.filter((x) => x.holds !== true).length;
      return [
        { name: "Parts", count: v.placed.length, bad: false },
        { name: "Joints", count: v.joints.length + v.relations.length + v.pairs.length, bad: loose > 0 },
        { name: "Drive", count: v.drivers.length, bad: free > 0 },
        { name: "Curves", count: v.curves.length, bad: false },
        { name: "Checks", count: failing || v.verdicts.length, bad: failing > 0 },
        { name: "Balance", count: this.balanceOpen || "–", bad: this.balanceOpen > 0 },
        { name: "Revisions", count: this.state.revision, bad: false },
      ];
    },
    railClass(s) {
      return (s.name === this.step ? "on" : "") + (s.bad ? " bad" : "");
    },
    go(step) {
      if (step !== this.step) this.itemSearch = "";
      this.step = step;
      this.panel = { Balance: "balance", Revisions: "revisions" }[step] || "item";
      if (step === "Revisions" || step === "Curves") this.loadRevisions();
      this.loadCurves();
      this.loadBalance();
      this.weigh();
      page.stage.drives.group.visible = step === "Drive";
      page.stage.paint();
      tick(() => this.redrawLanes());
    },
    get allItems() {
      return sections(this.view, this.step, (x) => this.sign(x));
    },
    get itemsAreMany() {
      return this.allItems.reduce((n, s) => n + s.items.length, 0) > LONG;
    },
    get itemSections() {
      const words = this.itemSearch.trim().toLowerCase(),
        many = this.allItems.length > 1;
      const found = (i) => `${i.name} ${i.note}`.toLowerCase().includes(words);
      return this.allItems
        .map((s) => ({
          name: many ? s.name : "",
          items: words ? s.items.filter(found) : folded(s.items, this.unfolded),
        }))
        .filter((s) => s.items.length);
    },
    itemClass(i) {
      return i.fold ? "fold" : i.path === this.selected ? "sel" : "";
    },
    pressItem(i) {
      if (i.fold) this.unfolded = this.toggled(this.unfolded, i.fold);
      else this.select(i.path);
    },
    get schemeWords() {
      const { mobility: m, scheme: s } = this.view;
      if (!m || !s) return "";
      const loose = m.loose.length ? ` · ${m.loose.length} loose` : "";
      return `${s.loops} ${s.loops === 1 ? "loop" : "loops"} · mobility ${m.count}${loose}`;
    },
  });
}
