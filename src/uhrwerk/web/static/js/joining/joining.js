// Joining two datums, measuring between them, and seating: pick, see where it would land, accept.
import { json } from "../shared/api.js";
import { sorted } from "../shared/datum_list.js";
import { latest, overtake } from "../shared/latest.js";
import { about, reason } from "../shared/page_state.js";

const PICKED = "two datums picked",
  PREVIEW = "preview of a joint";

// what a joint that is tried would do
function previewWords(answer) {
  const n = Object.keys(answer.moved).length;
  const moves = n === 0 ? "Nothing moves" : n === 1 ? "One part moves" : `${n} parts move`;
  const free = answer.freedoms.length ? `Remaining freedoms: ${answer.freedoms.join("; ")}` : "No freedom remains";
  return `${moves}. ${free}.`;
}

const FRESH = { offset: "0 mm", turn: "0 deg", lead: "2 mm", distance: "10 mm", angle: "90 deg" };
const LABELS = {
  x: "Along x",
  y: "Along y",
  offset: "Offset",
  turn: "Turn",
  turn_x: "Turn about x",
  turn_y: "Turn about y",
  turn_z: "Turn about z",
  lead: "Lead",
  distance: "Distance",
  angle: "Angle",
};

/** @param {Page} page */
export function joining(page) {
  const picked = (id) => {
    const [placed, datum] = id.split("/");
    return { placed, datum };
  };

  return /** @satisfies {ThisType<Workspace>} */ ({
    joinA: "",
    joinB: "",
    /** @type {Api.JoinOption[]} */
    candidates: [],
    /** @type {Api.JoinOption | null} */
    chosen: null,
    joinValues: { ...FRESH },
    joinFlip: false,
    previewWords: "",
    trying: false,
    /** @type {Api.Measure[]} */
    measures: [],
    keepAs: "measured_1",
    allCandidates: false,
    seatPart: "",
    seatGap: "0.2 mm",

    startJoin() {
      this.go("Joints");
      this.pickTwo("join", "Point at the first datum");
    },
    startMeasure() {
      this.pickTwo("measure", "Point at the first datum to measure from");
    },
    pickTwo(panel, hint) {
      this.panel = panel;
      this.clearJoin();
      this.hint = hint;
      page.stage.canvas.classList.add("picking");
    },
    clearJoin() {
      Object.assign(this, {
        joinA: "",
        joinB: "",
        candidates: [],
        chosen: null,
        joinValues: { ...FRESH },
        joinFlip: false,
        formError: "",
        previewWords: "",
        measures: [],
        allCandidates: false,
      });
      overtake(PREVIEW);
    },
    startJoinList() {
      this.startJoin();
      window.Alpine.nextTick(() => document.getElementById("join-a").focus());
    },
    get picking() {
      return this.panel === "join" || this.panel === "measure";
    },
    get datumChoices() {
      return this.view.placed.flatMap((p) =>
        sorted(p.datums).map((d) => ({ id: `${p.id}/${d.id}`, name: `${p.name}: ${d.name}, ${d.words}` })),
      );
    },
    // where what is selected takes hold, or the datum chosen on a part
    get markedEnds() {
      return this.growAt ? this.marks([this.growAt]) : this.card.ends || [];
    },
    marks(ids) {
      return ids.filter(Boolean).map((id) => {
        const at = picked(id);
        return {
          placed: at.placed,
          datum: page.view.placed.find((p) => p.id === at.placed)?.datums.find((d) => d.id === at.datum),
        };
      });
    },
    get offered() {
      return this.allCandidates ? this.candidates : this.candidates.slice(0, 6);
    },
    async findCandidates() {
      overtake(PICKED);
      this.candidates = [];
      this.chosen = null;
      this.formError = "";
      this.previewWords = "";
      this.measures = [];
      page.stage.mark(this.marks([this.joinA, this.joinB]));
      if (!this.joinA || !this.joinB) {
        this.hint = !this.joinA ? "Point at the first datum" : "Point at a datum of another part";
        return;
      }
      const two = { a: picked(this.joinA), b: picked(this.joinB) },
        what = this.panel === "measure" ? "measure" : "candidates";
      await latest(
        PICKED,
        async (when) => {
          const answer = await when(json("POST", about(what), two));
          if (what === "measure") {
            this.measures = answer;
            this.hint = "Measured at the start of the cycle";
            return;
          }
          this.candidates = answer;
          this.hint = "Enter joins as shown; or choose another candidate";
          if (answer.length) await this.choose(answer[0]);
        },
        (error) => {
          this.formError = error.message;
        },
      );
    },
    candidateClass(c) {
      return c === this.chosen || (this.chosen && c.kind === this.chosen.kind && c.what === this.chosen.what)
        ? "sel"
        : "";
    },
    get chosenFields() {
      return this.chosen ? this.chosen.fields.filter((f) => LABELS[f]).map((f) => ({ id: f, label: LABELS[f] })) : [];
    },
    get asksPlane() {
      return !!this.chosen?.fields.includes("about");
    },
    get planeChoices() {
      const planes = new Set(
        this.view.placed.flatMap((p) => p.datums.filter((d) => d.kind === "plane").map((d) => `${p.id}/${d.id}`)),
      );
      return this.datumChoices.filter((d) => planes.has(d.id));
    },
    get canFlip() {
      return !!this.chosen && (this.chosen.fields.includes("flip") || this.chosen.fields.includes("inside"));
    },
    get flipWords() {
      return this.chosen?.fields.includes("inside")
        ? "Inside: on the other side of the face, or rolling inside"
        : "Flip the second part";
    },
    async choose(c) {
      this.chosen = c;
      this.joinValues = { ...FRESH, ...c.starts };
      await this.preview();
    },
    ask(field, text) {
      this.joinValues[field] = text;
      this.preview();
    },
    joinCommand() {
      const command = JSON.parse(JSON.stringify(this.chosen.command)),
        body = command.joint || command.relation || command.pair;
      for (const f of this.chosenFields) body[f.id] = this.joinValues[f.id] || FRESH[f.id];
      if (this.asksPlane) body.about = picked(this.joinValues.about);
      if (this.joinFlip && command.joint) body.flip = !body.flip;
      if (this.joinFlip && command.relation)
        body.side = { same: "opposite", opposite: "same", inside: "outside", outside: "inside" }[
          body.side ?? "outside"
        ];
      return command;
    },
    async preview() {
      if (!this.chosen) return;
      this.trying = true;
      await latest(
        PREVIEW,
        async (when) => {
          const body = { revision: this.state.revision, command: this.joinCommand() };
          const answer = await when(json("POST", about("try"), body));
          this.formError = answer.remarks[0] || "";
          this.previewWords = previewWords(answer);
          await when(page.stage.glide(answer.poses));
          page.stage.mark(this.marks([this.joinA, this.joinB]));
          this.showHandle();
          this.trying = false;
        },
        (error) => {
          this.trying = false;
          this.previewWords = "";
          this.formError = reason(error);
          this.home();
        },
      );
    },
    // an arrow on the first datum: dragging it sets the offset or the distance
    showHandle() {
      const field = this.chosen?.fields.find((f) => f === "offset" || f === "distance"),
        mark = this.marks([this.joinA])[0];
      if (!field || !mark?.datum) {
        page.stage.handle(null);
        return;
      }
      page.stage.handle(mark, (way) => {
        const unit = this.view.units.length,
          per = { mm: 1e3, cm: 1e2, m: 1, in: 1 / 0.0254 }[unit],
          step = unit === "in" ? 0.02 : 0.5;
        const now = Number.parseFloat(this.joinValues[field]) || 0,
          value = Math.round((now + way * per) / step) * step;
        if (Math.abs(value - now) >= step / 2) {
          this.ask(field, `${Number(value.toFixed(4))} ${unit}`);
          return true;
        }
        return false;
      });
    },
    async accept() {
      if (!this.chosen || this.formError) return;
      const command = this.joinCommand();
      try {
        await this.command(command);
        this.clearJoin();
        this.hint = "Joined. Point at the next datum, or press Esc.";
        page.stage.mark([]);
        page.stage.handle(null);
      } catch (error) {
        this.formError = error.fields[0]?.reason || error.message;
      }
    },
    pickDatum(id) {
      if (this.asksPlane && this.planeChoices.some((d) => d.id === id)) return this.ask("about", id);
      if (!this.joinA || picked(this.joinA).placed === picked(id).placed) this.joinA = id;
      else this.joinB = id;
      this.findCandidates();
    },
    async keepMeasure(m) {
      this.formError = "";
      const name = this.keepAs;
      try {
        await this.command({
          kind: "set_parameter",
          name,
          formula: m.formula,
          note: `measured: ${m.name.toLowerCase()}`,
          measured: { what: m.name, a: picked(this.joinA), b: picked(this.joinB) },
        });
        this.hint = `${name} = ${m.formula} is now a parameter`;
        const n = Number(name.match(/(\d+)$/)?.[1]);
        if (n) this.keepAs = name.replace(/\d+$/, String(n + 1));
      } catch (error) {
        this.formError = error.fields[0]?.reason || error.message;
      }
    },
    get canSeat() {
      return this.selected.startsWith("joints.") && !this.selected.includes("__");
    },
    get seatChoices() {
      return this.view.placed.filter((p) => !p.copyOf);
    },
    async seat() {
      this.formError = "";
      try {
        const answer = await json("POST", about("seat"), {
          joint: this.selected.slice(7),
          against: this.seatPart,
          gap: this.seatGap,
        });
        await this.command(answer.command);
        this.hint = `Gap set: the offset is now ${answer.offset}`;
      } catch (error) {
        this.formError = error.fields?.[0]?.reason || error.message;
      }
    },
  });
}
