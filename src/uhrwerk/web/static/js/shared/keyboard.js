// The keys of the workspace; the list of them stands on the help page.
import { tick } from "./page_state.js";

const TYPED = "input:not([type=range]):not([type=checkbox]), select, textarea";

export function keys() {
  return /** @satisfies {ThisType<Workspace>} */ ({
    key(e) {
      const typing = e.target.matches(TYPED),
        held = e.ctrlKey || e.metaKey;
      if (this.tool && !held && this.drawingKey(e)) return;
      if (held && e.key === "Enter" && this.draft) {
        if (typing) e.target.blur(); // its change is heard first
        tick(() => this.applyDraft());
        return;
      }
      if (held && !typing && this.editKey(e)) return;
      if (e.key === "Escape") {
        if (this.sprout) this.dropSprout();
        else this.leave();
        return;
      }
      if (e.key === "Enter" && this.enterKey(e, typing)) return;
      if (typing || held || e.altKey) return;
      const does = /^[1-5]$/.test(e.key)
        ? () => this.enterRegion(Number(e.key))
        : this.plainKeys()[e.key.toLowerCase()];
      if (!does || (e.key === " " && e.target.matches("button, a, summary, input"))) return;
      e.preventDefault();
      does();
    },
    plainKeys() {
      return {
        " ": () => this.togglePlay(),
        ",": () => this.stepFrames(-1),
        ".": () => this.stepFrames(1),
        r: () => this.toggleReverse(),
        j: () => this.startJoin(),
        p: () => this.startMove(),
        f: () => this.fit(),
        w: () => this.nextFailing(),
        m: () => this.startMeasure(),
        h: () => this.partSelected && this.hide(),
        t: () => this.partSelected && this.seeThrough(),
        l: () => this.lookStraight(),
        a: () => this.showAll(),
        n: () => this.stepThrough(),
        "?": () => window.location.assign("/help"),
      };
    },
    // undo and redo, copy, cut and paste of parts; true where the key was one of them
    editKey(e) {
      const does = {
        z: () => (e.shiftKey ? this.redo() : this.undo()),
        y: () => this.redo(),
        c: () => this.copyParts(),
        x: () => this.cutParts(),
        v: () => this.pasteParts(),
      }[e.key.toLowerCase()];
      if (!does || ("cx".includes(e.key.toLowerCase()) && String(window.getSelection()))) return false;
      e.preventDefault();
      does();
      return true;
    },
    // Enter takes what is previewed, or leads on to the next failing requirement
    enterKey(e, typing) {
      const again = this.chosen && e.target.dataset.candidate === this.chosen.kind; // what is clicked is chosen already
      if (e.target.matches("button, a, select") && !again) return false;
      const take = this.sprout
        ? () => this.takeSprout()
        : this.panel === "join" && this.chosen
          ? () => this.accept()
          : this.panel === "move"
            ? () => this.applyMove()
            : null;
      if (take) {
        e.preventDefault();
        if (typing) e.target.blur(); // its change is heard first
        tick(take);
        return true;
      }
      if (typing || !this.selected.startsWith("requirements.")) return false;
      this.nextFailing();
      return true;
    },
  });
}
