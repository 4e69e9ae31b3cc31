// The workspace of one mechanism: the current revision, how it is evaluated, and what changes it. The server computes.

import { weighing } from "../balance/mass_panel.js";
import { balancing } from "../balance/rotors.js";
import { growing } from "../card/add_here.js";
import { building } from "../card/build_steps.js";
import { card } from "../card/card.js";
import { dialing } from "../card/dial.js";
import { making } from "../card/material_choice.js";
import { searching } from "../card/number_search.js";
import { pasting } from "../card/pasting.js";
import { mending } from "../card/remedies.js";
import { asking } from "../card/requirement_menu.js";
import { catalogue } from "../catalogue/catalogue.js";
import { importing } from "../catalogue/importing.js";
import { charting } from "../cycle/curve_choices.js";
import { playing } from "../cycle/playback.js";
import { timing } from "../cycle/programme_editor.js";
import { drawing } from "../drawing/drawing.js";
import { joining } from "../joining/joining.js";
import { moving } from "../joining/moving.js";
import { baseline } from "../revisions/baseline.js";
import { reverting } from "../revisions/revision_list.js";
import { items } from "../scheme/item_list.js";
import { repeating } from "../scheme/repeats_and_groups.js";
import { block, json, readMesh, readPoses, underWay } from "../shared/api.js";
import { drawn } from "../shared/dimension_drawing.js";
import { listen, next } from "../shared/events.js";
import { forms } from "../shared/forms.js";
import { shows } from "../shared/input_directive.js";
import { keys } from "../shared/keyboard.js";
import { latest } from "../shared/latest.js";
import { EMPTY, page, reason, tick, within } from "../shared/page_state.js";
import { carrying } from "../stage/copy_paste.js";
import { holding } from "../stage/dragging.js";
import { outlining } from "../stage/outline_editor.js";
import { pointing } from "../stage/pointing.js";
import { Stage } from "../stage/stage.js";
import { stepping } from "../stage/stepping.js";
import { seeing } from "../stage/visibility.js";
import { verdicts } from "../strip/verdicts.js";
import { drafting } from "./draft.js";
import { exporting } from "./exporting.js";
import { regions } from "./regions.js";

function asBefore(verdicts, before) {
  const places = new Map(before.map((v, k) => [v.requirement, k]));
  return [...verdicts].sort((a, b) => (places.get(a.requirement) ?? 1e3) - (places.get(b.requirement) ?? 1e3));
}

const KINDS = ["revision", "evaluation", "remedies", "search"];
const ELSEWHERE = 1000; // ms after which a new revision that nobody here asked for was made elsewhere

const RETRIES = 3;

// revisions that this page was at, each with when it came to it (ms): of several changes in a row the word of the first may come last
const visited = new Map();
const RECENT = 10_000;
const wasHere = (revision) => Date.now() - (visited.get(revision) || 0) < RECENT;

const unreadable = (status) => `The server failed (${status}); its log says why. Undo the last change to go on.`;

export function revisions() {
  return /** @satisfies {ThisType<Workspace>} */ ({
    /** @type {Api.State} */
    state: { id: "", words: "", name: "", revision: 0, undo: null, redo: null, variant: "", baseline: null },
    /** @type {Api.View} */
    view: EMPTY,
    loaded: false,
    /** @type {Api.RevisionSummary[]} */
    revisions: [],
    busy: false,
    busyWords: "",
    busyPart: 0,
    stopped: false, // by this page
    notice: "",
    /** @type {(() => void) | null} */
    once: null, // what is to be done when the next evaluation is there
    conflictWith: 0,

    // another revision is current: it was made here, and its call is still under way, or elsewhere
    heardRevision({ revision, words }) {
      if (revision === this.state.revision || !this.state.revision) return;
      setTimeout(() => {
        if (underWay()) this.heardRevision({ revision, words });
        else if (revision !== this.state.revision && !this.conflictWith && !wasHere(revision)) {
          this.notice = `Changed elsewhere: ${words} (revision ${revision}).`;
          this.conflictWith = revision;
        }
      }, ELSEWHERE);
    },
    async loadCurrent() {
      this.closeNotice();
      try {
        this.state = await json("GET", page.api);
        await this.evaluate();
      } catch (error) {
        this.explain(error);
      }
    },
    async loadRevisions() {
      this.revisions = await json("GET", `${page.api}/revisions`);
      await this.loadVariants();
    },
    async evaluate() {
      const wanted = this.state.revision,
        at = `${page.api}/revisions/${wanted}`;
      Object.assign(this, { busy: true, busyWords: "computing", busyPart: 0, stopped: false });
      await latest(
        "evaluation",
        async (when) => {
          const answer = await this.evaluated(at, when),
            poses = await when(block(`${at}/poses`));
          this.compare(page.view.verdicts, answer.verdicts);
          page.shown = wanted;
          this.judged = wanted;
          this.takeView(answer, poses);
          await when(this.showEvaluated(at));
          page.root.dataset.evaluated = String(wanted);
          this.busy = false;
          if (answer.lanes.some((l) => l.kind === "requirement"))
            await this.fillLanes(when(json("GET", `${at}/lanes`)));
        },
        (error) => {
          Object.assign(this, { busy: false, playWaits: false });
          this.explain(error);
        },
      );
    },
    // the view, once it is there
    async evaluated(at, when) {
      for (let stopped = 0; ; ) {
        const news = next("evaluation");
        const got = await when(fetch(`${at}/view`));
        const answer = await when(got.json().catch(() => ({ error: unreadable(got.status) })));
        if (got.ok && got.status !== 202) return answer;
        // stopped, though not by this page: it is begun anew
        if (got.status === 409 && !this.stopped && stopped++ < RETRIES) {
          await when(new Promise((again) => setTimeout(again, ELSEWHERE / 4)));
          continue;
        }
        if (got.status !== 202) throw Object.assign(new Error(answer.error), { fields: [] });
        this.busyWords = answer.words;
        this.busyPart = answer.fraction;
        await when(news);
      }
    },
    takeView(answer, buffer) {
      page.poses = readPoses(buffer);
      if (!answer.proved) answer.verdicts = asBefore(answer.verdicts, page.view.verdicts); // tiles keep their places until it is proved
      page.view = answer;
      this.view = answer;
    },
    async showScene(at) {
      const { stage, view, poses } = page;
      await stage.show(view.placed, async (placed, body, rough) =>
        readMesh(await block(`${at}/solids/${placed}/${body}${rough ? "?rough=true" : ""}`)),
      );
      stage.motion = view.moving ? poses : null;
      stage.springs.show(view.springs);
      stage.belts.show(view.belts);
      stage.drives.show(view.scheme.nodes, stage.size);
      stage.loads.show(view.loads, stage.size);
    },
    async showEvaluated(at) {
      const { stage, view } = page,
        first = !this.loaded || stage.parts.size !== view.placed.length;
      await this.showChanged(at);
      if (first) stage.fit();
      if (first) this.selectFromAddress();
      this.loadCurves();
      this.loadBalance();
      this.loadBaseline();
      this.weigh();
    },
    // what a link from another page names behind its #
    selectFromAddress() {
      const path = decodeURIComponent(window.location.hash.slice(1));
      if (path && page.view.cards[path]) this.select(path);
    },
    // what the current view holds, wherever it came from
    async showChanged(at) {
      await this.showScene(at);
      Object.assign(this, { loaded: true, busy: false, handPosed: false });
      if (this.selected && !page.view.cards[this.selected]) this.selected = "";
      this.once?.();
      this.once = null;
      this.paint();
      this.see();
      this.showMoment();
      this.playWhenThere();
      tick(() => this.redrawLanes());
    },
    // distances over the cycle are drawn when the verdicts stand already
    async fillLanes(lanes) {
      page.view.lanes = await lanes;
      this.redrawLanes();
    },
    async sharedSpace(v) {
      return readMesh(await block(`${page.api}/revisions/${page.shown}/shared/${v.requirement}`));
    },
    async command(command) {
      if (this.draft) return this.addToDraft(command);
      try {
        this.state = await json("POST", `${page.api}/commands`, { revision: this.state.revision, command });
      } catch (error) {
        if (error.status === 409) {
          this.notice = error.message;
          this.conflictWith = error.current;
        }
        throw error;
      }
      this.evaluate();
    },
    async attempt(command) {
      try {
        await this.command(command);
        return true;
      } catch (error) {
        if (error.status !== 409) this.explain(error);
        return false;
      }
    },
    async undo() {
      if (this.draft) return this.shortenDraft();
      await this.walk("undo");
    },
    async redo() {
      if (this.draft) return;
      await this.walk("redo");
    },
    async otherMode() {
      this.notice = "";
      await this.walk("other-mode");
    },
    async walk(way) {
      try {
        this.state = await json("POST", `${page.api}/${way}`, { revision: this.state.revision });
        this.errors = {};
        this.kept = {};
        await this.evaluate();
      } catch (error) {
        if (error.status === 409) this.conflictWith = error.current;
        this.explain(error);
      }
    },
    async stopWork() {
      this.stopped = true;
      await json("DELETE", `${page.api}/revisions/${this.state.revision}/view`);
    },
    explain(error) {
      this.notice = error.message;
    },
    closeNotice() {
      this.notice = "";
      this.conflictWith = 0;
    },
  });
}

// what is selected, and which form stands in the side pane
export function panels() {
  return /** @satisfies {ThisType<Workspace>} */ ({
    selected: "",
    panel: "item",
    /** @type {Record<string, string>} */
    errors: {},
    kept: {},
    form: {},
    formError: "",

    select(path) {
      this.selected = path;
      if (this.tool) this.stopDrawing();
      if (this.growAt && path !== `placed.${this.growAt.split("/")[0]}`) this.growFrom("");
      if (!this.picking) this.panel = "item";
      this.formError = "";
      this.stepAt = "";
      page.stage.markFaces("", "");
      this.paint();
    },
    paint() {
      page.stage.selected = this.partSelected || null;
      if (!this.picking) page.stage.mark(this.markedEnds);
      this.showFault();
      this.showCardDrawing();
      page.stage.paint();
      this.redrawScheme();
      this.redrawLanes();
      this.redrawChart();
    },
    open(panel) {
      Object.assign(this, { panel, formError: "", values: {}, errors: {}, kindSearch: "" });
      const only = this.view.driveable.filter((j) => !this.view.drivers.some((d) => d.joint === j.id));
      const kind = only[0] && !only[0].turning ? "sliding" : "turning";
      this.form = {
        driver: { kind, name: "Motor", duration: "" },
        requirement: { kind: "", name: "" },
        curve: { kind: "joint", name: "" },
        parameter: { name: "", formula: "" },
      }[panel];
      if (panel === "driver" && only.length) this.fill({ path: "joint" }, only[0].id);
    },
    askMore() {
      this.go("Checks");
      this.open("requirement");
      tick(() => within("#requirements-search")?.focus());
    },
    leave() {
      if (this.element) this.leaveElement();
      if (this.picking) this.clearJoin();
      Object.assign(this, { panel: "item", values: {}, hint: "" });
      page.stage.handle(null);
      page.stage.grips.show(null);
      page.stage.mark([]);
      this.home();
      page.stage.canvas.classList.remove("picking");
      this.tag.words = "";
      this.paint();
    },
    async submit(command, done) {
      this.formError = "";
      try {
        await this.command(command);
        this.leave();
        if (done) this.select(done);
      } catch (error) {
        this.formError = reason(error);
      }
    },
    get bodyChoices() {
      const named = (p, b) => ({ id: `${p.id}/${b}`, name: `${p.name}: ${b.replaceAll("_", " ")}` });
      const bodies = (p) => (p.bodies.length > 1 ? p.bodies.map((b) => named(p, b)) : []);
      return this.view.placed.flatMap((p) => [{ id: p.id, name: p.name }, ...bodies(p)]);
    },
    async addParameter() {
      const { name, formula } = this.form;
      await this.submit({ kind: "set_parameter", name, formula }, `parameters.${name}`);
    },
    fit() {
      page.stage.fit();
    },
  });
}

// several parts of one component; getters stay getters, and no part takes the name of another's
function mixed(...parts) {
  const out = {};
  for (const part of parts) {
    const twice = Object.keys(part).filter((name) => name in out);
    if (twice.length) throw new Error(`two parts of the page have the name ${twice[0]}`);
    Object.defineProperties(out, Object.getOwnPropertyDescriptors(part));
  }
  return out;
}

const start = {
  async init() {
    page.root = this.$el;
    this.keepFocus();
    this.$watch("state.revision", (revision) => visited.set(revision, Date.now()));
    // what a card puts on the stage goes with it
    this.$watch("panel", (panel) => {
      this.showStep(panel === "item" ? this.openStep : null);
      this.placeHandles();
      if (panel !== "move") page.stage.grips.show(null);
    });
    page.stage = new Stage(page.root.querySelector(".stage-canvas"));
    Object.assign(page.stage, {
      onpoint: (e) => this.point(e),
      onpick: (e) => this.pick(e),
      onkey: (key) => this.stageKey(key),
      onview: () => {
        this.placeTag();
        this.placeHandles();
        this.placeDrawing();
      },
      ongrab: (e) => this.grabAt(e),
      ondrag: (point) => this.drag(point),
      ondrop: () => this.drop(),
    });
    new ResizeObserver(() => this.redrawLanes()).observe(page.root.querySelector(".lanes-scroll"));
    new ResizeObserver(() => this.redrawChart()).observe(page.root.querySelector(".chart"));
    listen(`${page.api}/events`, KINDS, { revision: (answer) => this.heardRevision(answer) });
    if (!page.stage.renderer) this.hint = "This browser cannot draw solids (no WebGL); everything else works";
    await Promise.all([this.loadChoices(), this.loadMaterials(), this.loadCurrent()]);
    if (this.view.verdicts.some((v) => v.holds === false)) this.nextFailing();
    await this.reopenDraft();
  },
};

document.addEventListener("alpine:init", () => {
  shows(window.Alpine);
  const modules = [
    revisions,
    drafting,
    exporting,
    regions,
    panels,
    verdicts,
    items,
    card,
    pasting,
    dialing,
    building,
    outlining,
    drawing,
    forms,
    catalogue,
    drawn,
    growing,
    carrying,
    making,
    mending,
    importing,
    joining,
    moving,
    holding,
    seeing,
    repeating,
    reverting,
    searching,
    pointing,
    stepping,
    playing,
    timing,
    asking,
    balancing,
    baseline,
    weighing,
    charting,
    keys,
  ];
  window.Alpine.data("workspace", () => mixed(start, ...modules.map((made) => made(page))));
});
