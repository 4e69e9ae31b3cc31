// The requirements that can be added for the item on the card: every kind that names one of its sort.
const SORTS = ["joints", "pairs", "drivers", "placed", "groups"];

export function asking() {
  return /** @satisfies {ThisType<Workspace>} */ ({
    get askable() {
      const [sort, id] = this.selected.split(".");
      if (!SORTS.includes(sort) || id.includes("__")) return [];
      return this.choices.requirements
        .map((k) => ({ ...k, field: k.fields.find((f) => f.kind === "reference" && f.collection === sort) }))
        .filter((k) => k.field);
    },
    askOfIt(kind) {
      const found = this.askable.find((k) => k.kind === kind);
      if (found) this.askFor(kind, { [found.field.path]: this.selected.split(".")[1] });
    },
  });
}
