// Mass properties of chosen parts in a chosen frame, at the moment that is shown; drawn on the stage. The server computes.
import { json } from "../shared/api.js";
import { latest, overtake } from "../shared/latest.js";
import { shownRevision } from "../shared/page_state.js";

const MASSES = "masses";

const REST = 200; // ms for which a moment is shown before its numbers are asked for

/** @param {Page} page */
export function weighing(page) {
  let requested = "", // what is shown, or waited for
    later = 0;
  return /** @satisfies {ThisType<Workspace>} */ ({
    /** @type {string[]} */
    weighed: [], // ids of the parts
    weighedIn: "", // a datum, or nothing: the frame of the mechanism
    /** @type {[string, string][]} */
    weighedRows: [],
    weighedWords: "",

    isWeighed(p) {
      return this.weighed.includes(p);
    },
    toggleWeighed(p) {
      this.weighed = this.toggled(this.weighed, p);
      this.weigh();
    },
    weighAll(group) {
      this.weighed = group ? [...(this.view.groups.find((g) => g.id === group)?.placed || [])] : [];
      this.weigh();
    },
    weighIn(datum) {
      this.weighedIn = datum;
      this.weigh();
    },
    get weighedOn() {
      return this.step === "Balance" && this.weighed.length > 0;
    },
    // after every evaluation and choice, and where the moment changed
    async weigh() {
      this.weighed = this.weighed.filter((p) => this.view.placed.some((x) => x.id === p));
      if (this.weighedIn && !this.datumChoices.some((d) => d.id === this.weighedIn)) this.weighedIn = "";
      if (!this.weighedOn || page.shown !== shownRevision(this.state)) return this.unweigh();
      const time = (this.part * (this.view.duration || 0)).toFixed(9),
        query = new URLSearchParams({
          parts: this.weighed.join(","),
          frame: this.weighedIn.replace("/", "."),
          time,
        }),
        wanted = `${page.api}/revisions/${page.shown}/masses?${query}`;
      if (requested === wanted) return;
      requested = wanted;
      await latest(
        MASSES,
        async (when) => {
          const answer = await when(json("GET", wanted));
          Object.assign(this, { weighedRows: answer.rows, weighedWords: "" });
          page.stage.masses.show(answer);
          this.placeMasses();
        },
        (error) => Object.assign(this, { weighedRows: [], weighedWords: error.message }),
      );
    },
    unweigh() {
      if (!requested) return;
      requested = "";
      overtake(MASSES);
      this.weighedRows = [];
      page.stage.masses.show(null);
    },
    placeMasses() {
      if (!this.weighedOn) return;
      page.stage.masses.at(this.part);
      page.stage.draw();
      clearTimeout(later);
      if (!this.playing) later = setTimeout(() => this.weigh(), REST);
    },
  });
}
