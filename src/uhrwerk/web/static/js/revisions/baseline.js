// The baseline: a revision that is pinned. Verdicts, numbers and curves are shown against it; its solids, or those of any revision
// that is compared, stand outlined beside the current ones. And the variants, lines of revisions beside one another.
import { block, json, readMesh, readPoses } from "../shared/api.js";
import { latest, overtake } from "../shared/latest.js";

const OUTLINED = "outline of another revision";

const NONE = { of: "", fields: {}, verdicts: {}, words: "", mass: "" };

/** @param {Page} page */
export function baseline(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    was: NONE, // what was otherwise in the baseline, by path and requirement
    outlined: 0, // the revision whose solids are outlined on the stage
    /** @type {Api.VariantSummary[]} */
    variants: [],
    naming: "", // what is typed as the name of a revision or of a variant

    get hasBaseline() {
      return !!this.state.baseline && this.state.baseline !== this.state.revision;
    },
    get changedWords() {
      return this.hasBaseline && this.was.words ? this.was.words : this.changed;
    },
    // the revision that can be outlined: the one compared, or the baseline
    get outlinable() {
      return this.against || (this.hasBaseline ? this.state.baseline : 0);
    },
    get outlineWords() {
      return `outline revision ${this.outlinable}`;
    },
    get pinWordsOf() {
      return this.state.baseline === this.against ? "Unpin the baseline" : "Pin as baseline";
    },
    get baselineMass() {
      return this.was.mass ? `${this.was.mass} than revision ${this.state.baseline}` : "";
    },
    wasField(f) {
      const before = this.was.fields[f.path];
      return before === undefined ? "" : `revision ${this.state.baseline}: ${before || "absent"}`;
    },
    wasVerdict(v) {
      const before = this.was.verdicts[v.requirement];
      return before ? `${before.was} in revision ${this.state.baseline}` : "";
    },
    wasMark(v) {
      const mark = this.was.verdicts[v.requirement]?.mark;
      return mark === undefined || mark === null ? "" : `${100 * mark}%`;
    },
    // after every evaluation
    async loadBaseline() {
      const { baseline, revision } = this.state,
        wanted = this.hasBaseline ? `${revision} ${baseline}` : "";
      if (wanted !== this.was.of) this.was = NONE;
      if (wanted && wanted !== this.was.of) {
        const at = `${page.api}/revisions/${revision}/against/${baseline}`;
        const answer = await latest(
          "baseline",
          (when) => when(json("GET", at)),
          (error) => {
            if (error.status !== 404) this.explain(error); // the next evaluation came first, and asks again
          },
        );
        if (!answer) return;
        this.was = { of: wanted, ...byPath(answer, baseline) };
      }
      if (this.outlined && this.outlined !== this.outlinable) this.outlined = 0;
      await this.outline();
      if (!this.chartBeside && this.hasBaseline && this.charts) await this.compareCurves(baseline);
    },
    async pin(number) {
      try {
        this.state = await json("PUT", `${page.api}/baseline`, {
          number: this.state.baseline === number ? null : number,
        });
        await this.loadBaseline();
      } catch (error) {
        this.explain(error);
      }
    },
    pinMark(r) {
      return r.number === this.state.baseline ? "baseline" : "";
    },

    // its solids beside the current ones
    async toggleOutline(on) {
      this.outlined = on ? this.outlinable : 0;
      await this.outline();
    },
    async outline() {
      const { ghost } = page.stage,
        wanted = this.outlined;
      overtake(OUTLINED);
      if (!wanted) return ghost.clear();
      const at = `${page.api}/revisions/${wanted}`;
      await latest(
        OUTLINED,
        async (when) => {
          const answer = await this.evaluated(at, when),
            poses = readPoses(await when(block(`${at}/poses`)));
          const solid = async (placed, body) => readMesh(await block(`${at}/solids/${placed}/${body}?rough=true`));
          await ghost.show(answer.placed, poses, page.view.placed, page.poses, solid);
          this.showMoment();
        },
        (error) => {
          this.outlined = 0;
          this.explain(error);
        },
      );
    },

    // variants
    async loadVariants() {
      this.variants = await json("GET", `${page.api}/variants`);
    },
    variantClass(v) {
      return v.current ? "sel" : "";
    },
    async branchHere(number) {
      const name = this.naming.trim();
      await this.onLine("variants", { of: number, name: name || `variant ${this.variants.length + 1}` });
    },
    async goToVariant(v) {
      if (!v.current) await this.onLine("variant", { name: v.name });
    },
    async onLine(call, body) {
      try {
        this.state = await json("POST", `${page.api}/${call}`, { revision: this.state.revision, ...body });
        Object.assign(this, { against: 0, comparison: null, naming: "" });
        await this.evaluate();
        await this.loadRevisions();
      } catch (error) {
        if (error.status === 409) this.conflictWith = error.current;
        this.explain(error);
      }
    },
    async dropVariant(v) {
      try {
        await json("DELETE", `${page.api}/variants/${encodeURIComponent(v.name)}`);
        this.state = await json("GET", page.api);
        await this.loadVariants();
      } catch (error) {
        this.explain(error);
      }
    },
    async callIt(number) {
      try {
        await json("PUT", `${page.api}/revisions/${number}/name`, { name: this.naming.trim() });
        await this.loadRevisions();
      } catch (error) {
        this.explain(error);
      }
    },
  });
}

function byPath(answer, baseline) {
  const mended = answer.verdicts.filter((v) => v.turned && v.after === true).length,
    fresh = answer.verdicts.filter((v) => v.turned && v.after === false).length;
  return {
    fields: Object.fromEntries(answer.changes.map((c) => [c.path, c.before])),
    verdicts: Object.fromEntries(answer.verdicts.map((v) => [v.requirement, v])),
    words: `against revision ${baseline}: ${mended || fresh ? `${mended} now hold, ${fresh} newly fail` : "no verdict changed"}`,
    mass: answer.mass,
  };
}
