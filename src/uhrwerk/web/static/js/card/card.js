// The card: the numbers of what is selected. Each change is a command; what is refused keeps its text.
import { call, save } from "../shared/api.js";
import { reason } from "../shared/page_state.js";

const NONE = { title: "", about: "", fields: [], results: [], maps: [] };

/** @param {Page} page */
export function card(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    cutterDiameter: "10 mm",

    // its mass or its centre is that of the real thing
    get foundOnIt() {
      return (this.card.found || []).some((f) => f.text);
    },
    // it takes hold beside a datum
    get isBeside() {
      return (this.card.places || []).some((f) => f.text !== "0 mm");
    },
    get isCam() {
      return this.partView?.element === "plate_cam";
    },
    // the way of a cutter's centre round the cam on the card
    async saveCutter(suffix) {
      this.formError = "";
      const name = `${this.partSelected}.${suffix}`,
        at = `${page.api}/revisions/${this.state.revision}/cutter/${name}`;
      try {
        const answer = await call("GET", `${at}?diameter=${encodeURIComponent(this.cutterDiameter)}`);
        save(await answer.blob(), `${this.partSelected}-cutter.${suffix}`);
      } catch (error) {
        this.formError = reason(error);
      }
    },
    get card() {
      return this.view.cards[this.selected] || NONE;
    },
    // a programme's segments stand below, one at a time
    get cardFields() {
      const apart = this.programme ? `${this.selected}.segments.` : "";
      return apart ? this.card.fields.filter((f) => !f.path.startsWith(apart)) : this.card.fields;
    },
    get cardMaps() {
      const maps = Object.entries(this.card.maps || {});
      return maps.map(([path, blank]) => ({ path, blank, one: path.split(".").at(-1).slice(0, -1) }));
    },
    get canRemove() {
      return this.selected !== "cycle" && !this.isCopy;
    },
    get canBeFrame() {
      return this.partSelected !== "" && this.partSelected !== this.view.frame;
    },
    async setField(f, text) {
      this.typed = { path: "", text: "" };
      if (text === f.text) {
        delete this.errors[f.path];
        delete this.kept[f.path];
        return;
      }
      try {
        await this.command(this.fieldCommand(f, text));
        delete this.errors[f.path];
        delete this.kept[f.path];
      } catch (error) {
        this.kept[f.path] = text;
        this.errors[f.path] = error.fields.find((x) => x.path === f.path)?.reason || error.message;
      }
    },
    // the path and the value that a field sets: of a kind, a datum and a body of a part more than a text
    setValue(f, text) {
      const [placed, inner] = String(text).split("/");
      if (f.kind === "kinds") return { path: f.path.replace(/\.kind$/, ""), value: { kind: text } };
      if (f.kind === "datum") return { path: f.path, value: text ? { placed, datum: inner } : null };
      if (f.kind === "reference" && f.collection === "placed" && f.path.endsWith(".placed"))
        return { path: f.path.replace(/\.placed$/, ""), value: { placed, body: inner || null } };
      return { path: f.path, value: text };
    },
    fieldCommand(f, text) {
      const set = { kind: "set_value", ...this.setValue(f, text) };
      if (f.kind !== "number") return set;
      // another number begins as what it is in the original
      const now = this.originalNumbers(f).find((n) => n.id === text)?.text || "";
      const commands = [set, { kind: "set_value", path: f.path.replace(/\.path$/, ".formula"), value: now }];
      return { kind: "together", commands, words: `${this.card.title}: another number changed` };
    },
    isChosenMember(f, id) {
      return f.options.includes(id);
    },
    chooseMember(f, id, chosen) {
      const value = chosen ? [...f.options, id] : f.options.filter((i) => i !== id);
      return this.attempt({ kind: "set_value", path: f.path, value });
    },
    // Enter on a text that was refused: what stood against it may be gone
    setAgain(f, text) {
      if (this.kept[f.path] === text) this.setField(f, text);
    },
    // left as it was refused: the reason stands beside it again
    leaveField(f, text) {
      if (this.kept[f.path] === text && !this.errors[f.path]) this.setField(f, text);
    },
    // Escape brings back what the document says; false where there is nothing to bring back
    revertField(f) {
      if (!(f.path in this.kept) && this.typed.path !== f.path) return false;
      this.typed = { path: "", text: "" };
      delete this.kept[f.path];
      delete this.errors[f.path];
      return true;
    },
    escapeField(f, event) {
      if (!this.revertField(f)) return;
      event.stopPropagation();
      event.target.value = f.text;
    },
    // a measured parameter is measured again
    async measureAgain() {
      const name = this.selected.replace("parameters.", "");
      await this.attempt({ kind: "set_value", path: `parameters.${name}.formula`, value: this.card.stale });
    },
    get offerWords() {
      return this.card.offer?.words || "";
    },
    async takeOffer() {
      const { path, value } = this.card.offer;
      await this.attempt({ kind: "set_value", path, value });
    },
    rename(name) {
      this.attempt({ kind: "set_value", path: this.card.name, value: name });
    },
    async addTo(m) {
      const taken = this.card.fields.filter((f) => f.kind === "heading").map((f) => f.path.split(".").at(-1));
      let n = 1;
      while (taken.includes(`${m.one}_${n}`)) n++;
      await this.attempt({ kind: "set_value", path: `${m.path}.${m.one}_${n}`, value: m.blank });
    },
    removePath(path) {
      this.attempt({ kind: "remove", path });
    },
    async removeSelected() {
      const path = this.selected;
      if (await this.attempt({ kind: "remove", path })) this.selected = "";
    },
    makeFrame() {
      this.attempt({ kind: "set_value", path: "frame", value: this.partSelected });
    },
    get canReverse() {
      return Object.keys(this.card.reverse || {}).length > 0;
    },
    reverseDrive() {
      const commands = Object.entries(this.card.reverse).map(([path, value]) => ({ kind: "set_value", path, value }));
      this.attempt({ kind: "together", commands, words: `${this.card.title} reversed` });
    },
  });
}
