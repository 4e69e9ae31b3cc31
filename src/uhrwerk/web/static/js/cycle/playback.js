// The cycle: the moment that is shown, playing it, its lanes, and the flag at the worst place.

import { drawScheme } from "../scheme/scheme.js";
import { atWords, momentWords } from "../shared/moment_words.js";
import { within } from "../shared/page_state.js";
import { drawLanes } from "./timing_chart.js";

const TELL = 500; // ms between two moments of which the page tells, where drawing is slow
const NEAR = 0.004; // of the cycle: so near to the worst moment its flag is shown

/** @param {Page} page */
export function playing(page) {
  let passing = null; // the part of the cycle on the stage, where the rest of the page follows more slowly
  return /** @satisfies {ThisType<Workspace>} */ ({
    part: 0,
    playing: false,
    playWaits: false, // Play was pressed before the motion was there
    reverse: false,
    pace: "1",
    series: "position",
    handPosed: false,

    exportAt: "shown", // the moment at which solids are exported: shown, or start

    // the query of an export of solids: their moment, s
    get momentAsked() {
      const part = this.exportAt === "start" ? 0 : this.part;
      return `?time=${(part * (this.view.duration || 0)).toFixed(9)}`;
    },
    get momentSeconds() {
      return `${(this.part * (this.view.duration || 0)).toFixed(3)} s`;
    },
    get moment() {
      return momentWords(this.view, this.part);
    },
    seek(part) {
      this.part = Number(part);
      this.handPosed = false;
      this.showMoment();
    },
    stepFrames(n) {
      this.seek(Math.min(1, Math.max(0, this.part + n / Math.max(1, this.view.frames || 1))));
    },
    home() {
      this.handPosed = false;
      this.showMoment();
    },
    showMoment() {
      const { stage, poses } = page;
      if (!poses || !stage || this.handPosed) return;
      stage.pose(poses, (passing ?? this.part) * (poses.frames - 1));
      if (passing !== null) return; // the rest of the page follows more slowly
      this.redrawScheme();
      const svg = within(".lanes");
      if (svg.cursor) svg.place(this.part);
      this.placeChart();
      this.placeMasses();
      this.faultAtMoment();
      this.placeTag();
    },
    poseOf(placed) {
      if (this.handPosed || this.chosen) return page.stage.poseOf(placed);
      const { poses, view } = page,
        k = view.placed.findIndex((p) => p.id === placed);
      const at = (Math.round(this.part * (poses.frames - 1)) * poses.parts + k) * 7;
      return Array.from(poses.data.subarray(at, at + 7));
    },
    placeTag() {
      const v = this.verdictShown(),
        { duration } = this.view;
      if (!v?.points.length || v.time === null || !duration || Math.abs(v.time / duration - this.part) > NEAR) {
        if (this.tag.pinned) this.tag = { words: "", x: 0, y: 0, fails: false };
        return;
      }
      if (this.picking || this.handPosed) return;
      const { x, y } = page.stage.project(v.points[0]),
        words = `${v.valueText} at ${atWords(this.view, v.time / duration)}`;
      this.tag = { words, x, y, fails: v.holds === false, pinned: true, left: x > page.stage.canvas.clientWidth * 0.8 };
    },
    redrawScheme() {
      if (!page.view.scheme || !page.poses) return;
      const failing = page.stage.failing.map((b) => b.split("/")[0]),
        svg = page.root.querySelector(".scheme-drawing");
      drawScheme(
        svg,
        page.view,
        (p) => this.poseOf(p),
        this.selected,
        failing,
        (path) => this.select(path),
      );
    },
    redrawLanes() {
      const svg = within(".lanes"),
        held = svg.contains(document.activeElement) && document.activeElement.getAttribute("data-corner");
      if (svg.querySelector(".taken")) return; // a corner hangs on the pointer: drawn when it is let go
      drawLanes(
        svg,
        page.view,
        this.selected,
        (p) => this.seek(p),
        (path) => this.select(path),
        this.hand,
        this.series,
      );
      if (svg.cursor) svg.place(this.part);
      if (held) svg.querySelector(`[data-corner="${held}"]`)?.focus();
    },
    // why nothing can be played though something is driven
    get playReason() {
      const { moving, drivers, problems } = this.view;
      if (moving || this.busy || !drivers.length) return "";
      return `Nothing to play: ${problems[0]?.words || "no drive moves anything"}`;
    },
    // a motion that was waited for is played as soon as it is there
    playWhenThere() {
      if (!this.playWaits || (this.busy && !this.view.moving)) return;
      this.playWaits = false;
      if (this.view.moving && !this.playing) this.togglePlay();
    },
    togglePlay() {
      this.playWaits = this.busy && !this.view.moving && !this.playWaits;
      if (this.playWaits) return;
      this.handPosed = false;
      this.playing = !this.playing && this.view.moving;
      page.stage.running = this.playing;
      let last = performance.now(),
        spokenAt = 0,
        shown = this.part,
        at = shown;
      const run = (now) => {
        if (!this.playing) {
          page.stage.running = false;
          if (passing !== null && this.part === shown) this.part = at;
          passing = null;
          this.showMoment();
          return;
        }
        const step = (((now - last) / 1000) * Number(this.pace)) / this.view.duration;
        last = now;
        if (this.part !== shown) at = this.part; // the cursor was moved meanwhile
        at = (((at + (this.reverse ? -step : step)) % 1) + 1) % 1;
        if (page.stage.slow && now - spokenAt < TELL) passing = at;
        else {
          spokenAt = now;
          passing = null;
          this.part = shown = at;
        }
        this.showMoment();
        requestAnimationFrame(run);
      };
      requestAnimationFrame(run);
    },
    showSeries(series) {
      this.series = series;
      this.redrawLanes();
    },
    toggleReverse() {
      this.reverse = !this.reverse;
    },
  });
}
