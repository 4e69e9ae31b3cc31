// The dial: a number on a card is changed by dragging its handle. Stage, strip and lanes follow at a glance, marked as not proved;
// let go, the number is a command like any other, and all is proved.
import { block, json } from "../shared/api.js";
import { reason, shownRevision, tick } from "../shared/page_state.js";

const WIDE = 7; // px of the pointer for one step
const MANY = 10; // steps with shift, or a page key
// a number with its unit, or a parameter with or without something added to it
const TURNED = /^\s*([-+]?\d+(\.\d+)?\s*[a-zA-Z°µ/]*|[A-Za-z_]\w*(\s*[-+]\s*\d+(\.\d+)?\s*[a-zA-Z°]+)?)\s*$/;
const KEYS = {
  ArrowRight: 1,
  ArrowUp: 1,
  ArrowLeft: -1,
  ArrowDown: -1,
  PageUp: MANY,
  PageDown: -MANY,
};

/** @param {Page} page */
export function dialing(page) {
  // what is being turned: its path, where the pointer took it, the revision it is turned from, steps wanted and steps seen
  let own = null;
  return /** @satisfies {ThisType<Workspace>} */ ({
    turning: "",

    canDial(f) {
      return f.kind === "formula" && TURNED.test(f.text);
    },
    dialName(f) {
      return `Change ${f.label}`;
    },
    startDial(f) {
      if (own) return;
      own = {
        path: f.path,
        field: f,
        revision: shownRevision(this.state),
        x: 0,
        wanted: 0,
        seen: 0,
        text: f.text,
        busy: false,
        verdicts: page.view.verdicts,
        glanced: null,
      };
      this.turning = f.path;
      delete this.errors[f.path];
    },
    grabDial(f, event) {
      if (own || this.busy) return;
      this.startDial(f);
      own.x = event.clientX;
      event.target.setPointerCapture(event.pointerId);
    },
    moveDial(event) {
      if (!own || !event.target.hasPointerCapture(event.pointerId)) return;
      this.turnTo(Math.round((event.clientX - own.x) / WIDE) * (event.shiftKey ? MANY : 1));
    },
    keyDial(f, event) {
      const step = KEYS[event.key] || 0;
      if (step && !(this.busy && !own)) {
        this.startDial(f);
        this.turnTo(own.wanted + step * (event.shiftKey && Math.abs(step) === 1 ? MANY : 1));
      } else if (own && event.key === "Enter") this.letGoDial();
      else if (own && event.key === "Escape") this.dropDial();
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
    // one glance after the other; only the latest that is wanted is required
    async turnTo(steps) {
      own.wanted = steps;
      if (own.busy) return;
      const mine = own;
      mine.busy = true;
      let done = (_) => {};
      mine.glanced = new Promise((resolve) => {
        done = resolve;
      });
      try {
        while (own === mine && mine.wanted !== mine.seen) {
          const asked = mine.wanted,
            at = `${page.api}/revisions/${mine.revision}/turned`;
          const answer = await json("POST", at, { path: mine.path, steps: asked });
          if (own !== mine) return;
          await this.showGlance(answer);
          Object.assign(mine, { seen: asked, text: answer.text });
          delete this.errors[mine.path];
        }
      } catch (error) {
        mine.wanted = mine.seen;
        this.errors[mine.path] = reason(error);
      } finally {
        mine.busy = false;
        done(null);
      }
    },
    async showGlance(answer) {
      const at = `${page.api}/revisions/${answer.revision}`;
      page.shown = answer.revision;
      await this.takeView(answer.view, await block(`${at}/poses`));
      await this.showScene(at);
      this.paint();
      this.showMoment();
      tick(() => this.redrawLanes());
      page.root.dataset.glances = String(Number(page.root.dataset.glances || 0) + 1);
    },
    // what was seen last is taken, and proved
    async letGoDial() {
      const mine = own;
      if (!mine) return;
      await mine.glanced;
      if (own !== mine) return;
      own = null;
      this.turning = "";
      page.view = { ...page.view, verdicts: mine.verdicts }; // what changed is told against what was proved before
      if (mine.text !== mine.field.text) await this.setField(mine.field, mine.text);
      if (mine.text === mine.field.text || this.errors[mine.path]) await this.evaluate();
    },
    // all is again as it was
    dropDial() {
      if (!own) return;
      page.view = { ...page.view, verdicts: own.verdicts };
      own = null;
      this.turning = "";
      this.evaluate();
    },
  });
}
