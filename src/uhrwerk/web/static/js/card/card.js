// The card: the numbers of what is selected. Each change is a command; what is refused keeps its text.
import { call, save } from "../shared/api.js";
import { reason } from "../shared/page_state.js";

const NONE = { title: "", about: "", fields: [], results: [], maps: [] };
const WHOLE = /^\s*\d+\s*$/;

export function card(page) {
  return {
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
        await this.command({
          kind: "set_value",
          path: f.kind === "kinds" ? f.path.replace(/\.kind$/, "") : f.path,
          value: f.kind === "kinds" ? { kind: text } : f.kind === "integer" && WHOLE.test(text) ? Number(text) : text,
        });
        delete this.errors[f.path];
        delete this.kept[f.path];
      } catch (error) {
        this.kept[f.path] = text;
        this.errors[f.path] = error.fields.find((x) => x.path === f.path)?.reason || error.message;
      }
    },
    // Enter on a text that was refused: what stood against it may be gone
    setAgain(f, text) {
      if (this.kept[f.path] === text) this.setField(f, text);
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
  };
}
