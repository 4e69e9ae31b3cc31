// Importing files: chosen or dropped on the stage, their unit asked where they state none;
// and a file put in the place of the one that a part came from.
import { json } from "../shared/api.js";
import { reason } from "../shared/page_state.js";

const NOTHING = { file: null, replace: "", unit: "", asks: false, words: "", since: 0 };
const UNITS = ["mm", "cm", "m", "in"];

/** @param {Page} page */
export function importing(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    imported: { ...NOTHING },
    units: UNITS,
    /** @type {AbortController | null} */
    stopImport: null,

    openImport(replace = "") {
      this.leave();
      this.imported = { ...NOTHING, replace };
      this.panel = "imported";
    },
    get importRuns() {
      return this.imported.since > 0;
    },
    get importTitle() {
      return this.imported.replace ? "Replace file" : "Import";
    },
    get isImported() {
      return this.partView?.element === "imported";
    },
    get partView() {
      return this.view.placed.find((p) => `placed.${p.id}` === this.selected) || null;
    },
    importChosen(input) {
      const file = input.files[0];
      input.value = "";
      if (file) this.importFile(file);
    },
    // a file let go over the stage
    dropFile(e) {
      const file = e.dataTransfer?.files?.[0];
      if (!file) return;
      this.openImport();
      this.importFile(file);
    },
    async importFile(file, unit = "") {
      const mine = { ...NOTHING, file, unit, replace: this.imported.replace, since: Date.now() };
      this.imported = mine;
      this.stopImport = new AbortController();
      const at = mine.replace ? `${page.api}/parts/${mine.replace}/take` : `${page.api}/take`;
      const answer = await json(
        "POST",
        `${at}/${encodeURIComponent(file.name)}?unit=${unit}`,
        file,
        this.stopImport.signal,
      ).catch((error) => ({ error }));
      if (this.imported.since !== mine.since || this.panel !== "imported") return;
      this.imported.since = 0;
      if (answer.error) {
        const field = answer.error.fields?.[0];
        this.imported.asks = field?.path === "unit";
        this.imported.words = this.imported.asks ? "" : reason(answer.error);
        this.hint = this.imported.asks ? field.reason : "";
        return;
      }
      this.hint = "";
      this.panel = "item";
      if (!(await this.attempt(answer.command))) return;
      if (answer.selected) this.select(answer.selected);
      const said = [].concat(answer.said || []).filter(Boolean);
      if (said.length) this.notice = `${file.name}: ${said.join("; ")}`;
    },
    importIn(unit) {
      this.importFile(this.imported.file, unit);
    },
    closeImport() {
      this.stopImport?.abort();
      this.imported = { ...NOTHING };
      this.leave();
    },
  });
}
