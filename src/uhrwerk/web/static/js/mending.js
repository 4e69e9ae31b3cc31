// Remedies for the failing requirement on the card: asked for unasked, shown as they are found, taken in one action.
import { json } from "./api.js";

const AGAIN = 400; // ms between two looks

export function mending(page) {
  let key = ""; // the revision and requirement whose remedies are here
  return {
    offers: [],
    mendWords: "",
    mendBusy: false,

    get mendable() {
      const v = this.selected.startsWith("requirements.") ? this.verdictShown() : null;
      return v && v.holds === false && v.fill !== null ? v.requirement : "";
    },
    // called whenever what is selected or evaluated changes
    followMending() {
      const wanted = this.mendable && !this.busy ? `${this.state.revision} ${this.mendable}` : "";
      if (wanted === key) return;
      key = wanted;
      Object.assign(this, { offers: [], mendWords: "", mendBusy: wanted !== "" });
      if (wanted) this.lookForRemedies(wanted, this.state.revision, this.mendable);
    },
    async lookForRemedies(wanted, revision, requirement) {
      const at = `${page.api}/revisions/${revision}/remedies/${requirement}`;
      try {
        for (;;) {
          const told = await json("GET", at);
          if (key !== wanted) return;
          const shown = told.offers.map((o) => ({ ...o, heavy: o.mass !== "" }));
          Object.assign(this, { offers: shown, mendWords: told.words, mendBusy: !told.done });
          if (told.done) return;
          await new Promise((done) => setTimeout(done, AGAIN));
          if (key !== wanted) return;
        }
      } catch (error) {
        if (key !== wanted) return;
        Object.assign(this, { mendWords: error.message, mendBusy: false });
      }
    },
    takeRemedy(o) {
      return this.attempt(o.command);
    },
    offerClass(o) {
      return o.breaks ? "breaks" : "";
    },
  };
}
