// The verdict strip: tiles, what a change did, and the way from one failing requirement to the next.
import { latest, overtake } from "../shared/latest.js";

const FAULT = "where it fails";
const SIGNS = { true: "○", false: "✕" };

/** @param {Page} page */
export function verdicts(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    changed: "",
    /** @type {number | null} */
    judged: null, // the revision whose verdicts are shown

    // what is shown is of a revision before: the new one is being computed
    get former() {
      return this.loaded && this.judged !== null && this.judged !== this.state.revision;
    },
    get summary() {
      return this.former ? `Revision ${this.judged}: ${this.judgement}` : this.judgement;
    },
    get judgement() {
      const v = this.view.verdicts,
        failing = v.filter((x) => x.holds === false).length;
      const open = v.filter((x) => x.holds === null).length;
      if (!this.loaded) return "…";
      if (!this.view.proved) return "Changing: not proved yet";
      if (!v.length) return "No requirements yet";
      if (failing) return `${failing} of ${v.length} fail`;
      if (open) return `${open} of ${v.length} undecided`;
      return v.length === 1 ? "It holds" : `All ${v.length} hold`;
    },
    // the names of what fails, as a screen reader hears them when they change
    get failingWords() {
      const names = this.view.verdicts.filter((v) => v.holds === false).map((v) => v.name);
      return names.length ? `Failing: ${names.join(", ")}` : "";
    },
    isOpenTile(v) {
      return this.selected === `requirements.${v.requirement}` ? "true" : "false";
    },
    sign(v) {
      return (this.view.proved && !this.former ? "" : "≈") + (SIGNS[v.holds] || "–");
    },
    tileClass(v) {
      const current = this.selected === `requirements.${v.requirement}` ? " current" : "";
      const glance = this.view.proved && !this.former ? "" : " glance";
      return ({ true: "holds", false: "fails" }[v.holds] || "open") + current + glance;
    },
    tileWords(v) {
      const answer = { true: "holds", false: "fails" }[v.holds] || "undecided";
      const still = this.former ? `, of revision ${this.judged}` : this.view.proved ? "" : ", not proved yet";
      return `${answer}${still}: ${v.words}`;
    },
    compare(before, after) {
      if (!before.length) {
        this.changed = "";
        return;
      }
      const was = new Map(before.map((v) => [v.requirement, v.holds]));
      const now = (v) => was.has(v.requirement) && was.get(v.requirement) !== v.holds;
      const mended = after.filter((v) => v.holds === true && was.get(v.requirement) === false).length;
      const fresh = after.filter((v) => v.holds === false && now(v)).length;
      const summary = mended || fresh ? `${mended} now hold, ${fresh} newly fail` : "no verdict changed";
      this.changed = `since the last change: ${summary}`;
    },
    openVerdict(v) {
      this.go("Checks");
      this.select(`requirements.${v.requirement}`);
      if (v.time !== null && this.view.duration) {
        this.playing = false;
        this.seek(v.time / this.view.duration);
      }
    },
    // a click on the tile that is open already leads on to the next that fails
    pressTile(v) {
      if (v.holds === false && this.selected === `requirements.${v.requirement}`) this.nextFailing();
      else this.openVerdict(v);
    },
    nextFailing() {
      const failing = this.view.verdicts.filter((x) => x.holds === false);
      if (!failing.length) {
        this.hint = this.view.verdicts.length ? "Nothing fails" : "No requirements yet";
        return;
      }
      const at = failing.findIndex((x) => this.selected === `requirements.${x.requirement}`);
      this.openVerdict(failing[(at + 1) % failing.length]);
    },
    verdictShown() {
      const key = this.selected.startsWith("requirements.") ? this.selected.slice(13) : null;
      const own = this.view.verdicts.find((v) => v.requirement === key);
      return own || (key ? null : this.view.verdicts.find((v) => v.holds === false && v.time !== null));
    },
    get worst() {
      const v = this.selected.startsWith("requirements.") ? this.verdictShown() : null;
      if (!v) return { title: "", words: "", known: "", state: "", was: "" };
      const title = { true: `${v.name} holds`, false: `${v.name} fails` }[v.holds] || `${v.name}: undecided`;
      const state = { true: "holds", false: "fails" }[v.holds] || "";
      return {
        title,
        words: v.words,
        known: v.errorText ? `value ± ${v.errorText}` : "",
        state,
        was: this.wasVerdict(v),
      };
    },
    // the page of layers, for a requirement that looks at them
    get layersLink() {
      const v = this.selected.startsWith("requirements.") ? this.verdictShown() : null;
      if (v?.kind !== "print_gap") return "";
      return `${window.location.pathname}/layers?requirement=${this.selected.split(".")[1]}`;
    },
    // the failing pair on the stage: both outlined, what they share as a solid, or the line where they come nearest
    async showFault() {
      const v = this.verdictShown(),
        { stage } = page,
        mine = v && v.holds === false && v.bodies.length === 2 ? v : null;
      stage.failing = mine ? mine.bodies : [];
      const key = mine ? `${page.shown} ${mine.requirement}` : "";
      if (stage.fault.key === key) return;
      stage.fault.key = key;
      stage.fault.clear();
      overtake(FAULT);
      if (!mine) return;
      await latest(
        FAULT,
        async (when) => {
          const mesh = await when(this.sharedSpace(mine));
          if (mesh.index.length) stage.fault.solid(mesh);
          else if (mine.points.length === 2) stage.fault.line(...mine.points);
          this.faultAtMoment();
        },
        (error) => this.explain(error),
      );
    },
    // what is drawn of a fault is true of its own moment alone
    faultAtMoment() {
      const v = this.verdictShown(),
        { fault } = page.stage,
        { duration } = this.view;
      const here =
        v && !this.handPosed && (v.time === null || !duration || Math.abs(v.time / duration - this.part) < 0.004);
      if (fault.group.visible === !!here) return;
      fault.group.visible = !!here;
      page.stage.paint();
    },
  });
}
