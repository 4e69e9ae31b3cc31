// Balance: rotors with their unbalance, the force on the frame, and what lowers both. The server computes.
import { json } from "../shared/api.js";
import { latest, overtake } from "../shared/latest.js";

const CORRECTIONS = "corrections";

const SHAKES = ["balance_grade", "centre_of_gravity", "shaking_force", "shaking_moment"];

/** @param {Page} page */
export function balancing(page) {
  let loaded = "", // the revision whose balance is here
    of = ""; // the revision that they correct
  return /** @satisfies {ThisType<Workspace>} */ ({
    rotors: [],
    shaking: null,

    correcting: "", // the joint whose rotor is corrected
    corrections: [],
    correctionWords: "",

    // ways to correct a rotor, shown as each is proved
    async correct(r, form) {
      const revision = this.state.revision,
        at = `${page.api}/revisions/${revision}/balance/${r.joint}/corrections?form=${form}`;
      const what = form === "drilled" ? "holes" : "studs";
      Object.assign(this, {
        correcting: r.joint,
        corrections: [],
        correctionWords: `looking for room for ${what}…`,
      });
      of = String(revision);
      await latest(
        CORRECTIONS,
        async (when) => {
          for (let k = 0, more = true; more; k++) {
            const answer = await when(json("GET", `${at}&at=${k}`));
            more = answer.more;
            if (answer.correction) this.corrections = [...this.corrections, answer.correction];
            this.correctionWords = more ? "looking for more…" : answer.words;
          }
          if (!this.corrections.length && !this.correctionWords)
            this.correctionWords = `None of the ${what} can be made as planned: there is a hollow beneath.`;
        },
        (error) => {
          this.correctionWords = error.message;
        },
      );
    },
    stopCorrecting() {
      overtake(CORRECTIONS);
      Object.assign(this, { correcting: "", corrections: [], correctionWords: "" });
    },
    async takeCorrection(c) {
      this.stopCorrecting();
      await this.attempt(c.command);
    },
    async loadBalance() {
      if (this.step !== "Balance" || !this.view.placed.length) return;
      const wanted = String(this.state.revision);
      if (loaded === wanted) return;
      const balance = await latest("balance", (when) => when(json("GET", `${page.api}/revisions/${wanted}/balance`)));
      if (!balance) return;
      loaded = wanted;
      if (of !== wanted) this.stopCorrecting(); // those of an earlier revision
      this.rotors = balance.rotors.map((r) => ({ ...r, plots: r.planes.map(plot) }));
      this.shaking = balance.shaking
        ? {
            ...balance.shaking,
            path: ring(balance.shaking.points),
            lower: ring(balance.shaking.after),
            turnedPath: ring(balance.shaking.turned),
          }
        : null;
    },
    get balanceOpen() {
      return this.view.verdicts.filter((v) => SHAKES.includes(v.kind) && v.holds !== true).length;
    },
    get nothingTurns() {
      return !this.rotors.length;
    },
    rotorWords(r) {
      return r.holds === null ? "" : r.holds ? "holds" : "fails";
    },
    rotorClass(r) {
      return r.holds === null ? "" : r.holds ? "good" : "bad";
    },
    askGrade(r) {
      if (r.required) this.select(`requirements.${r.required}`);
      else this.askFor("balance_grade", { joint: r.joint });
    },
    gradeWords(r) {
      return r.required ? "Show its requirement" : "Require a grade";
    },
    askShaking(kind) {
      this.askFor(kind, {});
    },
    askFor(kind, values) {
      this.askMore();
      this.chooseKind(kind);
      this.values = values;
    },
  });
}

// a plane's vector, its limit and the tip's mark, in a plot of radius 100
function plot(p) {
  const x = 100 * p.x,
    y = -100 * p.y;
  return { name: p.name, words: p.words, mend: p.mend, arrow: `M0 0L${x} ${y}`, x, y, allowed: 100 * p.allowed };
}

function ring(points) {
  return points.length ? `M${points.map(([x, y]) => `${100 * x} ${-100 * y}`).join("L")}` : "";
}
