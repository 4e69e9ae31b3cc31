// Remedies for the failing requirement on the card: requested automatically, listed as they arrive, applied in one action. The one that is
// pointed at, or has the focus, is seen on stage, strip and lanes meanwhile, marked as not proved.
import { json } from "../shared/api.js";
import { next } from "../shared/events.js";
import { latest, overtake } from "../shared/latest.js";

const REMEDIES = "remedies";

const REST = 150; // ms for which one is pointed at before it is shown, or pointed away from before all is as it was

/** @param {Page} page */
export function mending(page) {
  let key = ""; // the revision and requirement whose remedies are here
  let peek = null; // the offer that is pointed at, and the verdicts proved before
  let back = null; // the way back to what is current
  return /** @satisfies {ThisType<Workspace>} */ ({
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
      overtake(REMEDIES);
      Object.assign(this, { offers: [], movedBy: [], mendWords: "", mendBusy: wanted !== "" });
      if (wanted) this.lookForRemedies(this.state.revision, this.mendable);
    },
    async lookForRemedies(revision, requirement) {
      const at = `${page.api}/revisions/${revision}/remedies/${requirement}`;
      await latest(
        REMEDIES,
        async (when) => {
          for (let done = false; !done; ) {
            const news = next("remedies"),
              answer = await when(json("GET", at));
            done = answer.done;
            Object.assign(this, {
              offers: answer.offers.map((o) => ({ ...o, heavy: o.mass !== "" })),
              movedBy: answer.moves,
              mendWords: answer.words,
              mendBusy: !done,
            });
            if (!done) await when(news);
          }
        },
        (error) => Object.assign(this, { mendWords: error.message, mendBusy: false }),
      );
    },
    remedyName(o) {
      return `Apply: ${o.changes.map((c) => `${c.name} ${c.after}`).join(", ")}`;
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
  });
}
