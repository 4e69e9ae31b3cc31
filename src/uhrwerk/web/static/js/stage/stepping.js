// Parts and their datums on the stage by keyboard: brackets step through them, Enter takes what is marked.
import { sorted } from "../shared/datum_list.js";

/** @param {Page} page */
export function stepping(page) {
  let at = { placed: "", datum: "" };

  // the item so many places on in a ring of them
  const beyond = (list, id, way) => {
    const now = list.findIndex((x) => x.id === id);
    return list[now < 0 ? (way > 0 ? 0 : list.length - 1) : (now + way + list.length) % list.length];
  };

  return /** @satisfies {ThisType<Workspace>} */ ({
    // true where the key was one of these
    stageKey(key) {
      if (key === "]" || key === "[") this.stepDatum(key === "]" ? 1 : -1);
      else if (key === "}" || key === "{") this.stepPart(key === "}" ? 1 : -1);
      else if (key === "Enter" && at.placed) this.takeMarked();
      else return false;
      return true;
    },
    stepPart(way) {
      const part = beyond(
        this.view.placed.filter((p) => !p.leftOut),
        at.placed || this.partSelected,
        way,
      );
      if (!part) return;
      at = { placed: part.id, datum: "" };
      this.stepDatum(1);
    },
    stepDatum(way) {
      const placed = at.placed || this.partSelected || this.view.placed[0]?.id,
        part = page.stage.parts.get(placed)?.info;
      if (!part?.datums.length) return;
      const datum = beyond(sorted(part.datums), at.datum, way),
        { x, y } = page.stage.project(page.stage.world(page.stage.poseOf(placed), datum.origin));
      at = { placed, datum: datum.id };
      page.pointed = [{ placed, datum, part }];
      page.step = 0;
      this.sayPointed(x, y);
      this.hint = `${part.name}, ${datum.name}: ${datum.words}`;
    },
    takeMarked() {
      const { placed, datum } = at,
        id = `${placed}/${datum}`;
      if (this.picking) this.pickDatum(id);
      else if (this.panel === "move") {
        const hit = page.pointed[0];
        if (this.bringing && placed !== this.partSelected) this.bringTo(hit);
      } else if (this.asksForDatum) this.takeDatum(id);
      else {
        this.step = "Parts";
        this.select(`placed.${placed}`);
        this.growFrom(id);
      }
    },
  });
}
