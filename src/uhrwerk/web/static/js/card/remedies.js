// Remedies for the failing requirement on the card: requested automatically, listed as they arrive, applied in one action. The one that is
// pointed at, or has the focus, is seen on stage, strip and lanes meanwhile, marked as not proved.
import { json } from "../shared/api.js";
import { next } from "../shared/events.js";

const REST = 150; // ms for which one is pointed at before it is shown, or pointed away from before all is as it was

export function mending(page) {
  let key = ""; // the revision and requirement whose remedies are here
  let peek = null; // the offer that is pointed at, and the verdicts proved before
  let back = null; // the way back to what is current
  return {
    peeking: "", // the requirement whose remedy is seen

    offers: [],
    movedBy: [],
    mendWords: "",
    mendBusy: false,

    get mendable() {
      if (this.peeking) return this.peeking;
      const v = this.selected.startsWith("requirements.") ? this.verdictShown() : null;
      return v && v.holds === false && v.fill !== null ? v.requirement : "";
    },
    // called whenever what is selected or evaluated changes
    followMending() {
      const wanted = this.mendable && !this.busy ? `${this.state.revision} ${this.mendable}` : "";
      if (wanted === key) return;
      key = wanted;
      Object.assign(this, { offers: [], movedBy: [], mendWords: "", mendBusy: wanted !== "" });
      if (wanted) this.lookForRemedies(wanted, this.state.revision, this.mendable);
    },
    async lookForRemedies(wanted, revision, requirement) {
      const at = `${page.api}/revisions/${revision}/remedies/${requirement}`;
      try {
        for (;;) {
          const news = next("remedies");
          const answer = await json("GET", at);
          if (key !== wanted) return;
          const shown = answer.offers.map((o) => ({ ...o, heavy: o.mass !== "" }));
          Object.assign(this, {
            offers: shown,
            movedBy: answer.moves,
            mendWords: answer.words,
            mendBusy: !answer.done,
          });
          if (answer.done) return;
          await news;
          if (key !== wanted) return;
        }
      } catch (error) {
        if (key !== wanted) return;
        Object.assign(this, { mendWords: error.message, mendBusy: false });
      }
    },
    takeRemedy(o) {
      this.forgetPeek();
      return this.attempt(o.command);
    },
    peekAt(o) {
      if (this.busy || this.turning || !this.mendable) return;
      const mine = { verdicts: peek ? peek.verdicts : page.view.verdicts, revision: this.state.revision, shown: false };
      if (peek) mine.shown = peek.shown;
      this.peeking = this.mendable;
      peek = mine;
      setTimeout(async () => {
        await back;
        if (peek !== mine || this.busy) return;
        const values = Object.fromEntries(o.changes.map((c) => [c.path, c.after]));
        try {
          const answer = await json("POST", `${page.api}/revisions/${mine.revision}/turned`, { values });
          if (peek !== mine || this.busy) return;
          mine.shown = true;
          await this.showGlance(answer);
        } catch (error) {
          if (peek === mine) this.mendWords = error.message;
        }
      }, REST);
    },
    peekAway() {
      const mine = peek;
      setTimeout(() => {
        if (mine === null || peek !== mine) return; // another is pointed at
        this.forgetPeek();
        if (mine.shown) back = this.evaluate();
      }, REST);
    },
    // what changes is told against what was proved
    forgetPeek() {
      if (peek?.shown) page.view = { ...page.view, verdicts: peek.verdicts };
      peek = null;
      this.peeking = "";
    },
    offerClass(o) {
      return o.breaks ? "breaks" : "";
    },
  };
}
