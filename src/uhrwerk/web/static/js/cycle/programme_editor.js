// Editing a programme in the timing chart: which segment is chosen, and what the server is asked. It answers with the command.
import { json } from "../shared/api.js";
import { about, reason, tick, within } from "../shared/page_state.js";

const LATER = 350; // ms after the last key

/** @param {Page} page */
export function timing(page) {
  let later = 0,
    keyed = null; // the corner moved by keys, how far, and how much of that the server is required already
  return /** @satisfies {ThisType<Workspace>} */ ({
    segmentAt: "", // the path of the chosen segment
    shiftRest: false,
    timingError: "",

    get programme() {
      return this.view.lanes.find((l) => l.path === this.selected && l.segments?.length) || null;
    },
    get segmentChosen() {
      return this.programme?.segments.find((s) => s.path === this.segmentAt) || null;
    },
    get segmentFields() {
      const start = `${this.segmentChosen?.path}.`;
      return this.card.fields.filter((f) => f.path.startsWith(start) && f.kind !== "heading");
    },
    // what the lanes call
    get hand() {
      return {
        segment: this.segmentAt,
        choose: (path, quietly) => this.chooseSegment(path, quietly),
        draw: (s, until, to) => this.drawCorner(s, until, to),
        keys: (s, deg, value, show) => this.keyCorner(s, deg, value, show),
        change: (what, path) => this.changeSegment(what, path),
      };
    },
    chooseSegment(path, quietly) {
      if (path !== this.segmentAt) this.timingError = "";
      this.segmentAt = path;
      if (!quietly) return this.redrawLanes();
      for (const band of page.root.querySelectorAll(".segment"))
        band.classList.toggle("chosen", path.endsWith(`.${band.getAttribute("data-segment")}`));
    },
    chooseSegmentById(id) {
      this.chooseSegment(this.programme.segments.find((s) => s.id === id).path);
    },
    async askTiming(what, path, more) {
      const [, driver, , segment] = path.split(".");
      this.timingError = "";
      try {
        const { command } = await json("POST", about("timing"), { driver, segment, what, ...more });
        this.once = () => this.focusCorner(segment);
        await this.command(command);
        return true;
      } catch (error) {
        this.once = null;
        this.timingError = reason(error);
        this.redrawLanes();
        return false;
      }
    },
    // true where a command was taken
    async drawCorner(s, until, to) {
      if (until !== null || to !== null)
        return this.askTiming("corner", s.path, { until, to, following: this.shiftRest });
      this.redrawLanes();
      return false;
    },
    // keys add up until none is pressed for a while; those pressed while the server computes go on from what it answers
    keyCorner(s, deg, value, show) {
      if (keyed?.path !== s.path) keyed = { path: s.path, deg: 0, value: 0, sent: null };
      keyed.deg += deg;
      keyed.value += value;
      const send = show(keyed.deg, keyed.value);
      clearTimeout(later);
      if (!keyed.sent) later = setTimeout(() => this.sendKeyed(send), LATER);
    },
    async sendKeyed(send) {
      keyed.sent = { deg: keyed.deg, value: keyed.value };
      if (!(await send())) keyed = null;
    },
    focusCorner(id) {
      const put = () => {
        const dot = within(`[data-corner="${id}"]`),
          more = keyed?.sent && { deg: keyed.deg - keyed.sent.deg, value: keyed.value - keyed.sent.value };
        keyed = null;
        dot?.focus();
        if (more && (more.deg || more.value)) dot?.dispatchEvent(new CustomEvent("further", { detail: more }));
      };
      tick(() => tick(put));
    },
    async changeSegment(what, path) {
      await this.askTiming(what, path || this.segmentChosen.path, {});
    },
  });
}
