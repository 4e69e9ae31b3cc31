// Searching for numbers within limits that reach a goal: the server tries, every step is listed and can be taken.
import { json } from "../shared/api.js";
import { next } from "../shared/events.js";
import { latest, overtake } from "../shared/latest.js";
import { reason } from "../shared/page_state.js";

const FOLLOWED = "search";

const WIDE = 262;
const HIGH = 64; // of the picture, px
const CHOSEN = 3; // numbers that are chosen to begin with
const LAST = 8; // steps that are listed
const NOTHING = { state: "", words: "", names: [], steps: [], best: null, rounded: null };

// points as a path of lines without length, which round ends make visible
const dots = (some) => some.map((d) => `M${d.at}h0`).join("");

/** @param {Page} page */
export function searching(page) {
  let id = 0,
    commandsSent = 0; // an answer to what was read before one says nothing of what it did
  return /** @satisfies {ThisType<Workspace>} */ ({
    searchAbout: "", // the requirement whose value is sought
    searchAsks: { way: "equal", to: "", numbers: [], conditions: [] },
    searchError: "",
    found: NOTHING,

    get canSearch() {
      const v = this.selected.startsWith("requirements.") ? this.verdictShown() : null;
      return Boolean(v?.valueText);
    },
    get searchOpen() {
      return this.searchAbout !== "" && `requirements.${this.searchAbout}` === this.selected;
    },
    get searchRuns() {
      return this.found.state === "running" || this.found.state === "paused";
    },
    get searchPaused() {
      return this.found.state === "paused";
    },
    get searchShown() {
      return this.found.steps.length > 0;
    },
    get searchHasRounded() {
      return this.found.rounded !== null;
    },
    get searchHasBest() {
      return this.found.best !== null;
    },
    get asksValue() {
      return this.searchAsks.way === "equal";
    },
    async openSearch() {
      const about = this.selected.slice(13);
      this.searchError = "";
      try {
        const reply = await json("GET", `${page.api}/revisions/${this.state.revision}/searchable/${about}`);
        const numbers = reply.numbers.map((n, k) => ({ ...n, on: k < CHOSEN }));
        const conditions = Object.entries(reply.conditions).map(([key, name]) => ({ id: key, name, on: true }));
        this.searchAsks = { of: reply.goal, way: reply.way, to: reply.to, numbers, conditions };
        Object.assign(this, { found: NOTHING, searchAbout: about });
      } catch (error) {
        this.explain(error);
      }
    },
    closeSearch() {
      if (this.searchRuns) this.tellSearch("stop");
      Object.assign(this, { searchAbout: "", found: NOTHING });
      overtake(FOLLOWED);
    },
    async beginSearch() {
      const { of, way, to, numbers, conditions } = this.searchAsks,
        chosen = numbers.filter((n) => n.on).map(({ path, low, high }) => ({ path, low, high }));
      this.searchError = "";
      if (!chosen.length) {
        this.searchError = "choose at least one number";
        return;
      }
      try {
        const body = { of, way, to, numbers: chosen, conditions: conditions.filter((c) => c.on).map((c) => c.id) };
        const reply = await json("POST", `${page.api}/revisions/${this.state.revision}/searches`, body);
        id = reply.id;
        this.found = { ...NOTHING, state: "running", words: "beginning" };
        this.followSearch(id);
      } catch (error) {
        this.searchError = reason(error);
      }
    },
    async followSearch(wanted) {
      await latest(
        FOLLOWED,
        async (when) => {
          do {
            const news = next("search"),
              since = commandsSent,
              reply = await when(json("GET", `${page.api}/searches/${wanted}`));
            if (since === commandsSent) this.found = reply; // else it was read before a command that was sent meanwhile
            if (this.searchRuns) await when(news);
          } while (this.searchRuns);
        },
        (error) => {
          this.searchError = error.message;
        },
      );
    },
    async tellSearch(what) {
      commandsSent += 1;
      try {
        const reply = await json("POST", `${page.api}/searches/${id}/${what}`);
        commandsSent += 1;
        this.found = reply;
      } catch (error) {
        this.searchError = error.message;
      }
    },
    holdSearch() {
      return this.tellSearch(this.searchPaused ? "resume" : "pause");
    },
    stopSearch() {
      return this.tellSearch("stop");
    },
    // the last steps, and always the best and the rounded one
    get searchSteps() {
      const { steps, best, rounded } = this.found;
      return steps
        .filter((s, k) => k >= steps.length - LAST || s.number === best || s.number === rounded)
        .map((s) => ({
          ...s,
          mark: s.number === rounded ? "rounded" : s.number === best ? "best" : "",
          numbersTried: s.texts.join(", "),
          lost: s.failing.join(", "),
        }))
        .reverse();
    },
    searchDots() {
      const { steps } = this.found,
        every = Math.max(1, steps.length - 1);
      return steps
        .filter((s) => s.high !== null)
        .map((s) => ({
          best: s.number === this.found.best,
          holds: s.holds,
          at: `${4 + ((WIDE - 8) * (s.number - 1)) / every} ${HIGH - 4 - (HIGH - 8) * s.high}`,
        }));
    },
    get searchWay() {
      return this.searchDots()
        .map((d, k) => `${k ? "L" : "M"}${d.at}`)
        .join("");
    },
    get searchHeld() {
      return dots(this.searchDots().filter((d) => d.holds));
    },
    get searchLost() {
      return dots(this.searchDots().filter((d) => !d.holds));
    },
    get searchBest() {
      return dots(this.searchDots().filter((d) => d.best));
    },
    askAgain() {
      this.found = NOTHING;
    },
    searchStep(number) {
      return json("GET", `${page.api}/searches/${id}/steps/${number}`);
    },
    async showTried(s) {
      try {
        const { values } = await this.searchStep(s.number);
        const reply = await json("POST", `${page.api}/revisions/${this.state.revision}/turned`, { values });
        await this.showGlance(reply);
      } catch (error) {
        this.searchError = reason(error);
      }
    },
    async takeStep(number) {
      try {
        const { command } = await this.searchStep(number);
        if (await this.attempt(command)) this.closeSearch();
      } catch (error) {
        this.searchError = reason(error);
      }
    },
    takeRounded() {
      return this.takeStep(this.found.rounded);
    },
    takeBest() {
      return this.takeStep(this.found.best);
    },
  });
}
