// Revisions: what the one in force changed against another, what that did, and the way back.
import { json } from "./api.js";

export function reverting(page) {
  return {
    against: 0,
    comparison: null,

    get comparisonWords() {
      const { changes, verdicts } = this.comparison;
      if (!changes.length) return "Nothing reads otherwise.";
      return verdicts.length ? "Since then:" : "Since then, and no verdict is another:";
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
      const wanted = number === this.against || number === this.state.revision ? 0 : number;
      Object.assign(this, { against: wanted, comparison: null });
      if (!wanted) return;
      try {
        const told = await json("GET", `${page.api}/revisions/${this.state.revision}/against/${wanted}`);
        if (this.against === wanted) this.comparison = told;
      } catch (error) {
        this.explain(error);
      }
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
  };
}
