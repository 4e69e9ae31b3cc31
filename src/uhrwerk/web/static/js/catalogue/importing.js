// Importing files: chosen or dropped on the stage, their unit asked where they state none;
// and a file put in the place of the one that a part came from.
import { json } from "../shared/api.js";
import { reason } from "../shared/page_state.js";

const NOTHING = { file: null, replace: "", unit: "", asks: false, words: "", since: 0 };
const UNITS = ["mm", "cm", "m", "in"];

export function receiving(page) {
  return {
    received: { ...NOTHING },
    units: UNITS,

    openReceiving(replace = "") {
      this.leave();
      this.received = { ...NOTHING, replace };
      this.panel = "received";
    },
    get receivedBusy() {
      return this.received.since > 0;
    },
    get receivedTitle() {
      return this.received.replace ? "Replace file" : "Import";
    },
    get isReceived() {
      return this.partView?.element === "received";
    },
    get partView() {
      return this.view.placed.find((p) => `placed.${p.id}` === this.selected) || null;
    },
    receiveChosen(input) {
      const file = input.files[0];
      input.value = "";
      if (file) this.receive(file);
    },
    // a file let go over the stage
    dropFile(e) {
      const file = e.dataTransfer?.files?.[0];
      if (!file) return;
      this.openReceiving();
      this.receive(file);
    },
    async receive(file, unit = "") {
      const mine = { ...NOTHING, file, unit, replace: this.received.replace, since: Date.now() };
      this.received = mine;
      this.stopReceiving = new AbortController();
      const at = mine.replace ? `${page.api}/parts/${mine.replace}/take` : `${page.api}/take`;
      const answer = await json(
        "POST",
        `${at}/${encodeURIComponent(file.name)}?unit=${unit}`,
        file,
        this.stopReceiving.signal,
      ).catch((error) => ({ error }));
      if (this.received.since !== mine.since || this.panel !== "received") return;
      this.received.since = 0;
      if (answer.error) {
        const field = answer.error.fields?.[0];
        this.received.asks = field?.path === "unit";
        this.received.words = this.received.asks ? "" : reason(answer.error);
        this.hint = this.received.asks ? field.reason : "";
        return;
      }
      this.hint = "";
      this.panel = "item";
      if (!(await this.attempt(answer.command))) return;
      if (answer.selected) this.select(answer.selected);
      const said = [].concat(answer.said || []).filter(Boolean);
      if (said.length) this.notice = `${file.name}: ${said.join("; ")}`;
    },
    receiveIn(unit) {
      this.receive(this.received.file, unit);
    },
    leaveReceiving() {
      this.stopReceiving?.abort();
      this.received = { ...NOTHING };
      this.leave();
    },
  };
}
