// A draft: changes that are collected, seen at a glance and applied together, as one revision. It outlives a reload of the page.
import { block, json } from "../shared/api.js";
import { page as shared, tick } from "../shared/page_state.js";

const KEPT = `draft of ${shared.mechanism}`;

const plural = (n, what) => `${n} ${what}${n === 1 ? "" : "s"}`;

/** @param {Page} page */
export function drafting(page) {
  let turn = Promise.resolve(); // one change after the other
  return /** @satisfies {ThisType<Workspace>} */ ({
    /** @type {{base: number, commands: any[], words: string} | null} */
    draft: null,
    /** @type {{base: number, commands: any[], words: string} | null} */
    discarded: null, // what can be restored while its revision is the current one

    get draftWords() {
      const count = this.draft?.commands.length || 0;
      return count ? `${plural(count, "change")}, not applied yet` : "Changes are collected until you apply them";
    },
    get undoTitle() {
      if (this.draft) return "Undo the last change of the draft";
      return this.state.undo ? `Undo: ${this.state.undo}` : "Nothing to undo";
    },
    get canRestoreDraft() {
      return !this.draft && this.discarded?.base === this.state.revision;
    },
    get discardedWords() {
      return `${plural(this.discarded?.commands.length || 0, "change")} discarded`;
    },
    startDraft(words = "") {
      if (this.draft) return;
      this.draft = { base: this.state.revision, commands: [], words };
    },
    toggleDraft() {
      if (!this.draft) this.startDraft();
      else if (!this.draft.commands.length) this.discardDraft();
    },
    // one more change, and what it does at a glance; refused, the draft stays as it was
    async addToDraft(command) {
      const mine = this.draft;
      const work = turn.then(() => this.lookAtDraft(mine, mine.commands, [command]));
      turn = work.catch(() => {});
      await work;
    },
    async lookAtDraft(mine, commands, more) {
      if (this.draft !== mine) return;
      const answer = await json("POST", `${page.api}/revisions/${mine.base}/drafts`, { commands, more });
      if (this.draft !== mine) return;
      mine.commands = answer.commands;
      page.draft = page.shown = answer.revision;
      sessionStorage.setItem(KEPT, JSON.stringify(mine));
      const at = `${page.api}/revisions/${answer.revision}`;
      this.takeView(answer.view, await block(`${at}/poses`));
      await this.showChanged(at);
      page.root.dataset.drafts = String(Number(page.root.dataset.drafts || 0) + 1);
    },
    async shortenDraft() {
      const mine = this.draft;
      if (mine.commands.length < 2) return this.discardDraft();
      await this.lookAtDraft(mine, mine.commands.slice(0, -1), []);
    },
    async applyDraft() {
      const mine = this.draft;
      if (!mine) return;
      await turn;
      const { commands } = mine,
        words = mine.words || plural(commands.length, "change");
      this.closeDraft();
      if (!commands.length) return;
      if (await this.attempt(commands.length === 1 ? commands[0] : { kind: "together", commands, words })) return;
      this.draft = mine; // refused: nothing is lost
      await this.lookAtDraft(mine, commands, []);
    },
    async discardDraft() {
      if (this.draft?.commands.length) this.discarded = this.draft;
      this.closeDraft();
      await this.evaluate();
    },
    async restoreDraft() {
      const mine = this.discarded;
      Object.assign(this, { draft: mine, discarded: null });
      try {
        await this.lookAtDraft(mine, mine.commands, []);
      } catch (error) {
        this.closeDraft();
        this.discarded = mine;
        this.explain(error);
      }
    },
    closeDraft() {
      this.draft = null;
      page.draft = 0;
      sessionStorage.removeItem(KEPT);
    },
    // a draft that was left open, where its revision still is the current one
    async reopenDraft() {
      const stored = JSON.parse(sessionStorage.getItem(KEPT) || "null");
      if (!stored || stored.base !== this.state.revision) return;
      this.draft = stored;
      try {
        await this.lookAtDraft(this.draft, stored.commands, []);
      } catch (error) {
        this.closeDraft();
        this.explain(error);
      }
      tick(() => this.redrawLanes());
    },
  });
}
