// Revisions: what the current one changed against another, what that did, and the way back.
import { json } from "../shared/api.js";
import { latest, overtake } from "../shared/latest.js";

const COMPARED = "comparison";

/** @param {Page} page */
export function reverting(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    against: 0,
    comparedBase: 0, // with which revision others are compared; 0: with the current one
    comparison: null,

    get comparisonWords() {
      const { changes, verdicts } = this.comparison;
      if (!changes.length) return "Nothing differs.";
      const since = this.comparedBase ? `From ${this.against} to ${this.comparedBase}` : "Since then";
      return verdicts.length ? `${since}:` : `${since}, and no verdict is another:`;
    },
    revisionWords(r) {
      if (r.total === null || !r.total) return "";
      if (r.failing) return `${r.failing} of ${r.total} fail`;
      return r.unknown ? `${r.unknown} open` : "all hold";
    },
    verdictClass(v) {
      if (!v.turned) return "";
      return v.after === true ? "good" : "bad";
    },
    async compareWith(number) {
      const wanted = number === this.against ? 0 : number,
        base = this.comparedBase || this.state.revision;
      const named = this.revisions.find((r) => r.number === wanted);
      Object.assign(this, { against: wanted, comparison: null, naming: named?.name || "" });
      overtake(COMPARED);
      if (!wanted) return this.loadBaseline();
      const at = `${page.api}/revisions/${base}/against/${wanted}`,
        explain = (error) => this.explain(error);
      this.comparison = (await latest(COMPARED, (when) => when(json("GET", at)), explain)) ?? this.comparison;
    },
    async compareBase(number) {
      this.comparedBase = Number(number);
      const again = this.against;
      this.against = 0;
      if (again) await this.compareWith(again);
    },
    baseName(r) {
      return r.number === this.state.revision ? "the current one" : `${r.number}: ${r.name || r.words}`;
    },
    baseValue(r) {
      return r.number === this.state.revision ? 0 : r.number;
    },
    async goBackTo(number) {
      try {
        this.state = await json("POST", `${page.api}/back`, { revision: this.state.revision, to: number });
        Object.assign(this, { against: 0, comparison: null });
        await this.evaluate();
        await this.loadRevisions();
      } catch (error) {
        this.explain(error);
      }
    },
  });
}
