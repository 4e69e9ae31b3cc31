// Curves: which are shown, over what, beside which other revision; what is read off at the cursor.
import { json, save } from "../shared/api.js";
import { latest } from "../shared/latest.js";
import { tick, within } from "../shared/page_state.js";
import { asFile, drawChart, round, valueAt } from "./curve_chart.js";

const COLOURS = ["#0e5a61", "#9a3f1d", "#4b4593", "#3f6b2f", "#7d5a10", "#7a2f5d"],
  DASHES = ["", "7 3", "2 2", "9 3 2 3", "5 2", "1 2"];
const FIRST = 4; // curves that are shown at first

/** @param {Page} page */
export function charting(page) {
  let loaded = ""; // the revision whose curves are here
  return /** @satisfies {ThisType<Workspace>} */ ({
    /** @type {Api.CurveShown[]} */
    curvesShown: [],
    /** @type {Api.CurveShown[]} */
    curvesBeside: [],
    chartSeries: "value",
    chartOver: "",
    chartBeside: "",
    chartOff: [],
    /** @type {number | null} */
    pinned: null, // the moment of the second cursor, s

    get charts() {
      return this.step === "Curves";
    },
    get pageClass() {
      return this.charts && this.view.curves.length ? "workspace charts" : "workspace";
    },
    get seriesChoices() {
      return [
        { id: "value", name: "value" },
        { id: "rate", name: "rate" },
        { id: "acceleration", name: "acceleration (2nd rate)" },
        { id: "jerk", name: "jerk (3rd rate)" },
      ];
    },
    get besideChoices() {
      return this.revisions.filter((r) => r.number !== this.state.revision).slice(0, 40);
    },
    get chartTable() {
      return `${page.api}/revisions/${this.state.revision}/curves.csv`;
    },
    async loadCurves() {
      if (!this.charts || !this.view.curves.length || !this.view.moving) {
        this.curvesShown = [];
        loaded = "";
        this.showPaths();
        return;
      }
      const wanted = String(this.state.revision);
      if (loaded !== wanted) {
        const answer = await latest("curves", (when) => when(json("GET", `${page.api}/revisions/${wanted}/curves`)));
        if (!answer) return;
        loaded = wanted;
        this.curvesShown = answer;
      }
      this.redrawChart();
    },
    async compareCurves(revision) {
      this.chartBeside = revision;
      const curves = async () => (revision ? json("GET", `${page.api}/revisions/${revision}/curves`) : []);
      const answer = await latest("curves beside", (when) => when(curves()));
      if (!answer) return;
      this.curvesBeside = answer;
      this.redrawChart();
    },
    // the curves with their colours; those that are not measured say why
    get legend() {
      const t = this.part * (this.view.duration || 0);
      return this.curvesShown.map((c, k) => {
        const series = c.series.find((s) => s.name === this.chartSeries),
          on = c.why === "" && !!series && !this.chartHidden(c, k);
        return {
          id: c.id,
          path: `curves.${c.id}`,
          name: c.name,
          colour: COLOURS[k % COLOURS.length],
          on,
          can: c.why === "" && !!series,
          words: c.why || (series ? this.readOff(c, series, t) : "none"),
          range: series?.low.length ? `${round(series.low[1])} … ${round(series.high[1])}` : "",
          extremes: series ? `${series.words}${series.estimated ? " (estimated)" : ""}` : "",
        };
      });
    },
    chartHidden(c, k) {
      const path = `curves.${c.id}`;
      if (this.chartOff.includes(c.id)) return true;
      return k >= FIRST && !this.chartOff.includes(`+${c.id}`) && this.selected !== path;
    },
    readOff(c, series, t) {
      const now = valueAt(c.times, series.values, t);
      if (now === null || now === undefined) return "no value here";
      const unit = series.unit ? ` ${series.unit}` : "",
        words = `${round(now)}${unit}`;
      if (this.pinned === null) return words;
      const then = valueAt(c.times, series.values, this.pinned);
      return then === null ? words : `${words} (${round(now - then, true)})`;
    },
    toggleCurve(l) {
      const without = this.chartOff.filter((x) => x !== l.id && x !== `+${l.id}`);
      this.chartOff = [...without, l.on ? l.id : `+${l.id}`];
      this.redrawChart();
    },
    setChart(what, value) {
      this[what] = value;
      this.redrawChart();
    },
    pinHere() {
      this.pinned = this.pinned === null ? this.part * this.view.duration : null;
      this.placeChart();
    },
    get pinWords() {
      return this.pinned === null ? "Pin this moment" : "Unpin";
    },
    redrawChart() {
      tick(() => {
        const svg = page.root.querySelector(".chart");
        if (!this.charts || !svg) return;
        const one = (c, k, beside) => ({
          curve: c,
          series: c.series.find((s) => s.name === this.chartSeries),
          colour: COLOURS[k % COLOURS.length],
          dash: DASHES[k % DASHES.length],
          beside,
        });
        const on = this.legend.map((l) => l.on),
          shown = this.curvesShown.map((c, k) => one(c, k, false)).filter((s, k) => on[k] && s.series);
        const other = this.curvesShown
          .map((c, k) => ({ curve: this.curvesBeside.find((b) => b.id === c.id), k }))
          .filter(({ curve, k }) => curve && on[k])
          .map(({ curve, k }) => one(curve, k, true))
          .filter((s) => s.series);
        const axis = this.curvesShown.find((c) => c.id === this.chartOver && c.series.length),
          over = axis ? { curve: axis, series: axis.series[0] } : null;
        drawChart(svg, page.view, over ? shown : [...shown, ...other], over, (t) => {
          this.seek(Math.min(1, Math.max(0, t / page.view.duration)));
        });
        this.placeChart();
        this.showPaths();
      });
    },
    placeChart() {
      const svg = within(".chart");
      if (this.charts && svg?.place) svg.place(this.part * (this.view.duration || 0), this.pinned);
      page.stage?.paths.at(this.part);
    },
    showPaths() {
      const on = new Set(this.legend.filter((l) => l.on).map((l) => l.id)),
        paths = this.charts ? this.curvesShown.filter((c) => c.path.length && on.has(c.id)) : [];
      page.stage.paths.show(
        paths.map((c) => ({ path: c.path, colour: COLOURS[this.curvesShown.indexOf(c) % COLOURS.length] })),
      );
      page.stage.paths.at(this.part);
      page.stage.paint();
    },
    saveChart() {
      const svg = page.root.querySelector(".chart");
      save(new Blob([asFile(svg)], { type: "image/svg+xml" }), `${page.mechanism}-curves.svg`);
    },
    // the joint on the card, if it moves in a way of its own
    get followable() {
      const id = this.selected.startsWith("joints.") ? this.selected.slice(7) : "";
      return this.view.driveable.find((j) => j.id === id) || null;
    },
    async followJoint() {
      const { id, name, turning } = this.followable,
        curve = { kind: "joint", name, joint: id, of: turning ? "turn" : "slide" };
      if (await this.attempt({ kind: "add_curve", curve })) this.go("Curves");
    },
    get isCurve() {
      return this.selected.startsWith("curves.");
    },
    askLimits() {
      const curve = this.selected.slice(7);
      this.askMore();
      this.chooseKind("curve_limit");
      this.values = { curve };
    },
    // the datum that is pointed at, or chosen to grow from
    followPoint() {
      const at = this.growAt;
      this.go("Curves");
      this.open("curve");
      this.chooseKind("point");
      this.values = { at };
    },
    async addCurve() {
      const curve = this.filled("curve");
      if (curve) await this.submitForm({ kind: "add_curve", curve });
    },
  });
}
