// Moving and turning a placed part by numbers, arrows and rings: seen first, then applied in one action.
import { json } from "../shared/api.js";
import { latest, overtake } from "../shared/latest.js";
import { about, reason } from "../shared/page_state.js";

const AXES = ["x", "y", "z"];
const PREVIEW = "preview of a move";
const GRAIN = { mm: 0.5, cm: 0.05, m: 0.0005, in: 0.02 }; // pulled, a way goes in such steps
const METRE = { mm: 1e3, cm: 1e2, m: 1, in: 1 / 0.0254 };
const UPRIGHT = 15,
  STICKS = 2; // deg: a ring holds at each so many, from so near

/** @param {Page} page */
export function moving(page) {
  let begun = null, // the fields as an arrow or ring was taken
    looking = null, // the look that is under way
    again = false;
  return /** @satisfies {ThisType<Workspace>} */ ({
    moveValues: { move: { x: "", y: "", z: "" }, turn: { x: "", y: "", z: "" } },
    moveWords: "",
    moveError: "",
    moveCommand: null,
    bringing: false,
    /** @type {[number, number, number]} */
    moveMiddle: [0, 0, 0],

    get canMove() {
      return this.partSelected !== "" && this.partSelected !== this.view.frame && !this.isCopy;
    },
    get moveFields() {
      const of = (kind, words, none) =>
        AXES.map((axis) => ({
          id: `${kind}-${axis}`,
          kind,
          axis,
          none,
          label: `${words} ${axis}`,
          text: this.moveValues[kind][axis],
        }));
      return [...of("move", "Move along", `0 ${this.view.units.length}`), ...of("turn", "Turn about", "0 deg")];
    },
    startMove() {
      if (!this.canMove) return;
      this.playing = false;
      this.seek(0); // it is moved where it stands at the start
      this.panel = "move";
      this.freshMove();
      this.hint = "Pull an arrow or a ring, or type; Enter applies";
    },
    freshMove() {
      const none = () => ({ x: "", y: "", z: "" });
      overtake(PREVIEW);
      Object.assign(this, { moveValues: { move: none(), turn: none() }, moveWords: "", moveError: "" });
      Object.assign(this, { moveCommand: null, bringing: false });
      this.moveMiddle = page.stage.middleOf(this.partSelected);
      this.showGrips();
    },
    // a pull of an arrow (m) or of a ring (rad), from where it was taken
    pulledGrip(kind, axis, way, done) {
      begun ??= { ...this.moveValues[kind] };
      const name = AXES[axis],
        unit = this.view.units.length,
        now = Number.parseFloat(begun[name]) || 0;
      if (kind === "move") {
        const step = GRAIN[unit],
          value = Math.round((now + way * METRE[unit]) / step) * step;
        this.moveValues.move[name] = `${Number(value.toFixed(4))} ${unit}`;
      } else {
        const value = Math.round(now + (way * 180) / Math.PI),
          square = Math.round(value / UPRIGHT) * UPRIGHT;
        this.moveValues.turn[name] = `${Math.abs(value - square) <= STICKS ? square : value} deg`;
      }
      if (done) begun = null;
      this.tryMove();
    },
    askMove(f, text) {
      this.moveValues[f.kind][f.axis] = text;
      return this.tryMove();
    },
    turnBy(axis, degrees) {
      const now = Number.parseFloat(this.moveValues.turn[axis]) || 0;
      this.moveValues.turn[axis] = `${((((now + degrees + 180) % 360) + 360) % 360) - 180 || 0} deg`.replace(
        /^-180/,
        "180",
      );
      return this.tryMove();
    },
    startBringing() {
      this.bringing = !this.bringing;
      this.hint = this.bringing ? "Point at the place where it goes" : "";
    },
    // onto the place pointed at, its middle over it and its lowest point on the face; with its middle where a bore, an edge or a corner is
    bringTo({ placed, datum }, point) {
      const { stage } = page,
        pose = stage.poseOf(placed),
        flat = datum?.kind === "plane",
        z = flat ? stage.along(pose, datum.z) : [0, 0, 0],
        at = point && (flat || !datum) ? point : stage.world(pose, datum.origin),
        low = flat ? stage.lowest(this.partSelected, z) : 0,
        lift = flat ? this.moveMiddle.reduce((sum, m, k) => sum + m * z[k], 0) - low : 0;
      const unit = this.view.units.length;
      AXES.forEach((axis, k) => {
        const way = at[k] + z[k] * lift - this.moveMiddle[k];
        this.moveValues.move[axis] = `${Number((way * METRE[unit]).toFixed(3))} ${unit}`;
      });
      this.bringing = false;
      return this.tryMove();
    },
    // one look at a time: while a grip is pulled, the last wins
    tryMove() {
      again = true;
      looking ??= this.lookOn().finally(() => {
        looking = null;
      });
      return looking;
    },
    async lookOn() {
      while (again) {
        again = false;
        await this.previewMove();
      }
    },
    async previewMove() {
      const body = { placed: this.partSelected, ...this.moveValues, about: this.moveMiddle };
      await latest(
        PREVIEW,
        async (when) => {
          const answer = await when(json("POST", about("reposition"), body));
          Object.assign(this, { moveCommand: answer.command, moveWords: answer.words, moveError: "" });
          await when(page.stage.glide(answer.poses));
          if (!begun) this.showGrips();
        },
        (error) => {
          Object.assign(this, { moveCommand: null, moveWords: "", moveError: reason(error) });
          this.home();
        },
      );
    },
    showGrips() {
      if (this.panel !== "move") return;
      page.stage.grips.show(page.stage.middleOf(this.partSelected), (...pulled) => this.pulledGrip(...pulled));
    },
    async applyMove() {
      await this.tryMove();
      if (!this.moveCommand) return;
      try {
        await this.command(this.moveCommand);
        this.leave();
      } catch (error) {
        this.moveError = reason(error);
      }
    },
  });
}
