// What a part is made of, and its colour: from this mechanism's materials, from one's own, or from those that ship.
import { json } from "../shared/api.js";

export function making() {
  return /** @satisfies {ThisType<Workspace>} */ ({
    /** @type {Api.ListedMaterial[]} */
    knownMaterials: [],

    async loadMaterials() {
      this.knownMaterials = await json("GET", "/api/materials");
    },
    get isMade() {
      return Boolean(this.card.material) && !this.isCopy;
    },
    get materialChoices() {
      const here = this.view.materials,
        names = new Set(here.map((m) => m.name));
      const more = this.knownMaterials.filter((m) => !names.has(m.material.name));
      return [
        ...here,
        ...more.map((m) => ({ id: `+${m.id}`, name: `${m.material.name}${m.own ? ", your own" : ""}` })),
      ];
    },
    async chooseMaterial(id) {
      const path = `parts.${this.card.part}.material`;
      if (!id.startsWith("+")) {
        await this.attempt({ kind: "set_value", path, value: id });
        return;
      }
      const found = this.knownMaterials.find((m) => `+${m.id}` === id),
        taken = this.view.materials.map((m) => m.id);
      let key = found.id;
      for (let n = 2; taken.includes(key); n++) key = `${found.id}_${n}`;
      const commands = [
        { kind: "add_material", material: found.material, id: key },
        { kind: "set_value", path, value: key },
      ];
      await this.attempt({ kind: "together", commands, words: `material: ${found.material.name}` });
    },
    openMaterial() {
      this.select(`materials.${this.card.material}`);
    },
    get shownColour() {
      return this.card.colour || "";
    },
    // its material's, to begin with
    async giveColour() {
      const own = this.knownMaterials.find((m) => m.material.name === this.materialName)?.material.colour;
      await this.chooseColour(own || "#9aa7b8");
    },
    get materialName() {
      return this.view.materials.find((m) => m.id === this.card.material)?.name || "";
    },
    async chooseColour(value) {
      await this.attempt({ kind: "set_value", path: `parts.${this.card.part}.colour`, value });
    },
  });
}
