// Files from the Export menu: one that takes longer shows for how long it is computed, and can be stopped; a refusal says why.
import { call, save } from "../shared/api.js";

/** ms until an export counts as one that takes longer, and from one second shown to the next */
const SOON = 500,
  SECOND = 1000;

export function exporting() {
  /** @type {AbortController | null} */
  let current = null;
  return /** @satisfies {ThisType<Workspace>} */ ({
    exportName: "", // the file that is computed, once it takes longer
    exportSeconds: 0,

    get exportWords() {
      return this.exportName ? `Computing ${this.exportName}` : "";
    },
    get exportTime() {
      return ` ${this.exportSeconds} s`;
    },
    // a link of the menu; with a modifier, and a page, it is the browser's own
    async exportFile(event) {
      const link = event.target.closest("a[href^='/api/']");
      if (!link || event.ctrlKey || event.metaKey || event.shiftKey || event.altKey) return;
      event.preventDefault();
      this.stopExport();
      const mine = new AbortController();
      current = mine;
      this.closeMenu(event);
      const url = new URL(link.href),
        name = decodeURIComponent(url.pathname.split("/").at(-1)),
        begun = performance.now();
      const show = () => {
        if (current !== mine) return;
        Object.assign(this, { exportName: name, exportSeconds: Math.floor((performance.now() - begun) / 1000) });
        clock = setTimeout(show, SECOND);
      };
      let clock = setTimeout(show, SOON);
      try {
        const answer = await call("GET", url.pathname + url.search, undefined, mine.signal);
        const content = await answer.blob();
        if (current === mine) save(content, name);
      } catch (error) {
        if (current === mine) this.explain(error);
      } finally {
        clearTimeout(clock);
        if (current === mine) this.stopExport();
      }
    },
    stopExport() {
      current?.abort();
      current = null;
      Object.assign(this, { exportName: "", exportSeconds: 0 });
    },
  });
}
