// Carrying parts: copied, cut and pasted with what joins them, here or into another mechanism; a whole mechanism from
// the shelf placed in this one; an element dragged from the catalogue onto a datum.
import { json } from "../shared/api.js";
import { about, reason } from "../shared/page_state.js";

const KEPT = "uhrwerk carried"; // kept by the browser, so that another mechanism's page can take it

/** @param {Page} page */
export function carrying(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    carried: window.localStorage.getItem(KEPT) !== null,
    shelf: [],
    dragged: null,

    // the parts that are meant: the selected one, or those of the selected group
    get meantParts() {
      if (this.isGroup) return this.view.groups.find((g) => `groups.${g.id}` === this.selected)?.placed || [];
      return this.partSelected && !this.isCopy ? [this.partSelected] : [];
    },
    async copyParts() {
      const parts = this.meantParts;
      if (!parts.length) {
        this.hint = "Select a part or a group first.";
        return false;
      }
      try {
        const piece = await json("POST", about("piece"), { parts });
        window.localStorage.setItem(KEPT, JSON.stringify(piece));
        this.carried = true;
        const many = parts.length === 1 ? "One part" : `${parts.length} parts`;
        this.hint = `${many} copied, with the joints between them: Ctrl V pastes`;
        return true;
      } catch (error) {
        this.explain(error);
        return false;
      }
    },
    async cutParts() {
      const parts = this.meantParts;
      if (!(await this.copyParts())) return;
      const commands = parts.map((p) => ({ kind: "remove", path: `placed.${p}` }));
      const words = parts.length === 1 ? "one part cut" : `${parts.length} parts cut`;
      if (await this.attempt({ kind: "together", commands, words })) this.selected = "";
    },
    async pasteParts() {
      const kept = window.localStorage.getItem(KEPT);
      if (!kept) {
        this.hint = "Nothing is copied yet: select a part and press Ctrl C.";
        return;
      }
      await this.include({ document: JSON.parse(kept) });
    },
    async openShelf() {
      this.leave();
      this.panel = "shelf";
      const all = await json("GET", "/api/mechanisms");
      this.shelf = all.filter((m) => m.id !== page.mechanism);
    },
    async placeMechanism(m) {
      await this.include({ mechanism: m.id });
    },
    // what is included stands beside what is there, as a group where it has several parts
    async include(what) {
      try {
        const answer = await json("POST", about("include"), { revision: this.state.revision, ...what });
        this.panel = "item";
        if (await this.attempt(answer.command)) this.select(answer.selected);
      } catch (error) {
        this.notice = reason(error);
      }
    },

    // an element taken from the catalogue by the pointer, over the stage
    takeElement(e, element) {
      if (e.button) return;
      const from = { x: e.clientX, y: e.clientY };
      const over = (m) => {
        const { canvas } = page.stage;
        if (!this.dragged && Math.hypot(m.clientX - from.x, m.clientY - from.y) < 8) return;
        if (!this.dragged) {
          this.dragged = element;
          this.hint = `${element.title}: drop it on a bore, a pin or an axis`;
        }
        const box = canvas.getBoundingClientRect(),
          inside = document.elementFromPoint(m.clientX, m.clientY) === canvas;
        page.pointed = inside ? page.stage.under(m) : [];
        page.stage.mark(page.pointed.filter((p) => p.datum).slice(0, 1));
        this.sayPointed(m.clientX - box.left, m.clientY - box.top);
      };
      const end = (m) => {
        window.removeEventListener("pointermove", over);
        window.removeEventListener("pointerup", end);
        if (this.dragged) this.dropElement(m);
      };
      window.addEventListener("pointermove", over);
      window.addEventListener("pointerup", end);
    },
    async dropElement(e) {
      const element = this.dragged,
        inside = document.elementFromPoint(e.clientX, e.clientY) === page.stage.canvas;
      const at = inside ? page.pointed.find((p) => p.datum) : null;
      this.dragged = null;
      page.stage.mark([]);
      if (!inside) {
        this.hint = "";
        return;
      }
      if (at) {
        this.select(`placed.${at.placed}`);
        await this.growFrom(`${at.placed}/${at.datum.id}`);
        const own = this.sprouts.find((s) => s.kind === element.kind);
        if (own) {
          this.hint = "Enter adds it as shown; its sizes are on the card";
          await this.chooseSprout(own);
          return;
        }
      }
      this.panel = "catalogue";
      this.chooseElement(element);
      this.hint = at
        ? `${element.title} does not fit ${at.datum.name}: it is placed beside, to be joined`
        : "It is placed beside what is there";
    },
  });
}
