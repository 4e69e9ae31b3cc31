// Several cells pasted into one field, as from a spreadsheet: they go into the fields that follow, in one action.
import { cells, spread } from "../shared/pasted_table.js";

export function pasting() {
  return /** @satisfies {ThisType<Workspace>} */ ({
    // `items` are the fields shown together, `set` is the name of what takes one of them
    async pasteTable(event, items, field, set) {
      const table = cells(event.clipboardData.getData("text/plain"));
      if (table.length === 1 && table[0].length === 1) return; // one text, as it is
      event.preventDefault();
      const { sets, over } = spread(items, field.path, table);
      if (over) {
        this.errors[field.path] = `${over} cell${over > 1 ? "s" : ""} more than there are fields: nothing was pasted`;
        return;
      }
      delete this.errors[field.path];
      this.typed = { path: "", text: "" };
      if (set === "setField") await this.pasteIntoItem(items, sets);
      else if (set === "editElement") this.pasteIntoElement(sets);
      else
        for (const s of sets)
          await this[set](
            items.find((f) => f.path === s.path),
            s.text,
          );
    },
    // one command for all; a row that is not there yet starts as a fresh one
    async pasteIntoItem(items, sets) {
      const fresh = new Map(),
        commands = [];
      for (const s of sets) {
        if (!s.fresh)
          commands.push(
            this.fieldCommand(
              items.find((f) => f.path === s.path),
              s.text,
            ),
          );
        else {
          const map = s.row.slice(0, s.row.lastIndexOf("."));
          if (!fresh.has(s.row)) fresh.set(s.row, { ...this.blankOf(map) });
          fresh.get(s.row)[s.path.slice(s.row.length + 1)] = s.text;
        }
      }
      for (const [path, value] of fresh) commands.push({ kind: "set_value", path, value });
      try {
        await this.command({
          kind: "together",
          commands,
          words: `${this.card.title || "step"}: ${sets.length} values pasted`,
        });
      } catch (error) {
        for (const s of sets) this.kept[s.path] = s.text;
        for (const s of sets) {
          const own = error.fields?.find((x) => x.path === s.path || x.path === s.row);
          if (own) this.errors[s.path] = own.reason;
        }
        if (!sets.some((s) => this.errors[s.path])) this.errors[sets[0].path] = error.message;
      }
    },
    blankOf(map) {
      return this.card.maps?.[map] || this.openStep?.more?.[map] || {};
    },
    pasteIntoElement(sets) {
      for (const s of sets) {
        if (s.fresh && !this.rows.some((f) => f.path === s.row)) this.moreOf(s.row.slice(0, s.row.lastIndexOf(".")));
        this.editElement(
          this.rows.find((f) => f.path === s.path),
          s.text,
        );
      }
    },
  });
}
