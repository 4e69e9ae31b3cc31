// Adding what fits the datum pointed at, with a preview on the stage.
import { block, json, readMesh } from "../shared/api.js";
import { sorted } from "../shared/datum_list.js";
import { GHOSTS, latest, overtake } from "../shared/latest.js";
import { about, reason, shownRevision, tick, within } from "../shared/page_state.js";

/** @param {Page} page */
export function growing(page) {
  let answer = null; // to the numbers asked last: nothing is taken before it is there
  return /** @satisfies {ThisType<Workspace>} */ ({
    growAt: "",
    /** @type {Api.Sprout[]} */
    sprouts: [],
    /** @type {Api.Sprout | null} */
    sprout: null,
    /** @type {Record<string, string>} */
    growValues: {},
    growLooking: false, // what fits is being found
    growSeeing: false, // what is previewed is being made
    growError: "",
    growGap: "1 mm", // to be kept from a neighbour
    growAgainst: "",
    growCycle: false,
    get growNeighbours() {
      return this.view.placed.filter((p) => p.id !== this.growAt.split("/")[0]);
    },
    busyPulling: false,
    near: "", // the gap of what is changed to its nearest neighbour
    ghosts: false, // what is not taken yet stands on the stage

    get growDatums() {
      const p = this.partSelected ? this.view.placed.find((x) => `placed.${x.id}` === this.selected) : null;
      return p && !p.copyOf
        ? sorted(p.datums).map((d) => ({ id: `${p.id}/${d.id}`, name: `${d.name}, ${d.words}` }))
        : [];
    },
    async growFrom(id) {
      this.dropSprout();
      this.growAt = id;
      if (!this.picking) page.stage.mark(this.markedEnds);
      this.sprouts = [];
      answer = null;
      if (!id) return;
      const [placed, datum] = id.split("/");
      this.growLooking = true;
      try {
        const offers = await json("POST", about("grow"), { at: { placed, datum } });
        if (this.growAt === id) this.sprouts = offers;
      } catch (error) {
        this.formError = error.fields?.[0]?.reason || error.message;
      } finally {
        if (this.growAt === id) this.growLooking = false;
      }
    },
    get growHint() {
      if (this.growLooking) return "Looking what fits here…";
      if (!this.growAt) return "Point at a bore, a pin or a face of this part.";
      return this.sprouts.length ? "" : `${this.whyNothingFits} Add a part from the catalogue and join it.`;
    },
    get whyNothingFits() {
      const [placed, id] = this.growAt.split("/"),
        datum = this.view.placed.find((p) => p.id === placed)?.datums.find((d) => d.id === id);
      if (datum?.kind === "point") return "A point carries nothing by itself.";
      if (datum?.kind === "axis" && !datum.side)
        return "An axis alone has no size: point at the bore or the pin on it.";
      if (datum?.kind === "axis") return "Something sits here already, or nothing of this size is in the tables.";
      return "Nothing is made for this face.";
    },
    async chooseSprout(s) {
      this.sprout = s;
      this.growValues = Object.fromEntries(s.asks.map((a) => [a.path, a.text]));
      tick(() => (within(".grow [data-grow]") || within(".grow .act"))?.focus());
      await this.showSprout();
    },
    async askSprout(path, text) {
      this.growValues[path] = text;
      await this.showSprout(true);
    },
    async showSprout(again = false) {
      const [placed, datum] = this.growAt.split("/");
      this.growError = "";
      this.growSeeing = true;
      await latest(
        GHOSTS,
        async (when) => {
          if (again) {
            const body = { at: { placed, datum }, id: this.sprout.id, values: this.growValues };
            answer = json("POST", about("grow"), body);
            [this.sprout] = await when(answer);
          }
          await this.showGhosts(this.sprout.command, when);
          this.pullable();
          this.growSeeing = false;
        },
        (error) => {
          this.growError = reason(error);
          this.growSeeing = false;
        },
      );
    },
    // a face that may be moved is pulled by an arrow on it, in round steps
    pullable() {
      if (!this.sprout?.pulls) {
        page.stage.handle(null);
        return;
      }
      const [placed, id] = this.growAt.split("/"),
        datum = page.view.placed.find((p) => p.id === placed).datums.find((d) => d.id === id);
      const unit = this.view.units.length,
        per = { mm: 1e3, cm: 1e2, m: 1, in: 1 / 0.0254 }[unit],
        step = unit === "in" ? 0.02 : 0.5;
      if (datum?.kind !== "plane") return;
      page.stage.handle({ placed, datum }, (way) => {
        const now =
            Number.parseFloat(this.growValues.by) *
            (this.growValues.by.trim().endsWith("mm") && unit !== "mm" ? per / 1e3 : 1),
          value = Math.round((now + way * per) / step) * step;
        if (Math.abs(value - now) < step / 2) return false;
        this.askSprout("by", `${Number(value.toFixed(4))} ${unit}`);
        return true;
      });
    },
    get pulls() {
      return Boolean(this.sprout?.pulls);
    },
    get roundOffers() {
      return this.sprout?.rounded || [];
    },
    async roundTo(r) {
      await this.askSprout("by", r.by);
    },
    // pulled until the nearest neighbour is so far away
    async pullToGap() {
      const [placed, datum] = this.growAt.split("/");
      this.growError = "";
      this.busyPulling = true;
      try {
        const body = {
          at: { placed, datum },
          id: this.sprout.id,
          values: this.growValues,
          gap: this.growGap,
          against: this.growAgainst,
          cycle: this.growCycle,
        };
        const reply = await json("POST", about("pull"), body);
        await this.askSprout("by", reply.by);
      } catch (error) {
        this.growError = error.fields?.[0]?.reason || error.message;
      } finally {
        this.busyPulling = false;
      }
    },
    // parts that a command would make stand on the stage, until it is taken or left
    async showGhosts(command, when, where = (g) => g.pose) {
      const ghosts = await when(json("POST", about("ghosts"), { revision: this.state.revision, command }));
      this.near = ghosts.map((g) => g.near).filter(Boolean)[0] || "";
      // a solid that is not there yet knows no datums: under another name, so that the real one takes its place
      const infos = ghosts.map((g) => ({ ...g, solid: `ghost ${g.solid}`, datums: [], isFrame: false }));
      const real = (placed, body) =>
        block(`${page.api}/revisions/${shownRevision(this.state)}/solids/${placed}/${body}`);
      const ghost = (g, body) => block(`/api/elements/solids/${g.solid}/${body}`);
      const changed = new Map(infos.map((i) => [i.id, i]));
      const shown = page.view.placed.map((p) => ({ ...p, ...changed.get(p.id), isFrame: p.isFrame, datums: p.datums }));
      const fresh = infos.filter((i) => !page.view.placed.some((p) => p.id === i.id));
      this.ghosts = true;
      page.stage.markFaces("", "");
      if (fresh.length < infos.length) this.seek(0); // what is changed is shown, and measured, where all starts
      const at = page.stage.poses();
      await page.stage.show([...shown, ...fresh], async (id, body) => {
        const g = ghosts.find((x) => x.id === id);
        return readMesh(await (g ? ghost(g, body) : real(id, body)));
      });
      page.stage.place({ ...at, ...Object.fromEntries(ghosts.map((g) => [g.id, where(g)])) });
      if (!page.stage.sees(ghosts.map((g) => g.id))) page.stage.fit();
    },
    async dropGhosts() {
      if (!this.ghosts) return;
      this.ghosts = false;
      const at = `${page.api}/revisions/${shownRevision(this.state)}/solids`;
      await page.stage.show(page.view.placed, async (id, body) => readMesh(await block(`${at}/${id}/${body}`)));
      this.home();
    },
    dropSprout() {
      overtake(GHOSTS);
      this.sprout = null;
      this.growSeeing = false;
      this.growError = this.near = "";
      page.stage.handle(null);
      this.dropGhosts();
    },
    async takeSprout() {
      await answer?.catch(() => {});
      if (!this.sprout || this.growError) return;
      const fresh = this.sprout.command.commands.filter((c) => c.kind === "add_part").at(-1)?.id,
        command = this.sprout.command;
      overtake(GHOSTS);
      page.stage.handle(null);
      this.sprout = null;
      this.near = "";
      this.sprouts = [];
      this.growAt = "";
      try {
        await this.command(command);
        if (fresh) this.select(`placed.${fresh}`);
      } catch (error) {
        this.growError = error.fields?.[0]?.reason || error.message;
        this.dropGhosts();
      }
    },
    get suggested() {
      const free = this.view.mobility?.undriven || 0;
      return free ? this.view.driveable.find((j) => j.driver) || null : null;
    },
    async driveSuggested() {
      await this.attempt({ kind: "add_driver", driver: this.suggested.driver });
    },
  });
}
