// Pointing at the stage: what lies under the pointer is named; a click selects it, or picks a datum to join.
/** @param {Page} page */
export function pointing(page) {
  return /** @satisfies {ThisType<Workspace>} */ ({
    tag: { words: "", x: 0, y: 0, fails: false },
    hint: "",

    point(e) {
      if (this.playing) return;
      page.pointed = page.stage.under(e, this.asksForDatum);
      page.step = 0;
      page.pointedAt = [e.clientX, e.clientY];
      this.sayPointed(e.offsetX, e.offsetY);
    },
    // whether a datum is required: edges and corners are then found too
    get asksForDatum() {
      return this.picking || (this.panel === "curve" && this.asksDatum);
    },
    // those that count now, and the one of them that is meant
    meant() {
      const list = this.picking ? page.pointed.filter((p) => p.datum) : page.pointed;
      return [list, list[page.step % Math.max(1, list.length)]];
    },
    sayPointed(x, y) {
      const [list, p] = this.meant();
      if (!p) {
        if (!this.tag.pinned) this.tag.words = "";
        if (!this.picking) page.stage.mark(this.markedEnds);
        return;
      }
      const more = list.length > 1 && this.picking ? ` (${(page.step % list.length) + 1} of ${list.length}: N)` : "";
      const datum = p.datum ? `, ${p.datum.name}: ${p.datum.words}` : "";
      this.tag = {
        words: `${p.part.name}${datum}${more}`,
        x,
        y,
        fails: false,
        left: x > page.stage.canvas.clientWidth * 0.6,
      };
      const here = p.datum ? [{ placed: p.placed, datum: p.datum }] : [];
      page.stage.mark([...(this.picking ? this.marks([this.joinA, this.joinB]) : this.markedEnds), ...here]);
    },
    stepThrough() {
      page.step += 1;
      this.sayPointed(this.tag.x, this.tag.y);
    },
    pick(e) {
      // what was pointed at counts where the pointer still is: one of several may have been stepped to
      const [x, y] = page.pointedAt;
      if (!page.pointed.length || Math.hypot(e.clientX - x, e.clientY - y) > 1) {
        page.pointed = page.stage.under(e, this.asksForDatum);
        page.step = 0;
      }
      if (this.picking) {
        const [, p] = this.meant();
        if (p) this.pickDatum(`${p.placed}/${p.datum.id}`);
        else this.hint = "No datum here: point at a bore, a pin, a face, an edge or a corner";
        return;
      }
      const hit = page.pointed.find((p) => p.datum) || page.pointed[0];
      if (!hit) return;
      if (this.panel === "move") {
        if (this.bringing && hit.placed !== this.partSelected) this.bringTo(hit, page.stage.solidUnder(e)?.point);
        return;
      }
      if (this.asksForDatum) {
        if (hit.datum) this.takeDatum(`${hit.placed}/${hit.datum.id}`);
        else this.hint = "No datum here: point at a bore, a pin, a face, an edge or a corner";
        return;
      }
      this.step = "Parts";
      this.select(`placed.${hit.placed}`);
      this.growFrom(hit.datum ? `${hit.placed}/${hit.datum.id}` : "");
    },
  });
}
