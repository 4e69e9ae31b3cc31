// The shelf: mechanisms created, imported, renamed, duplicated, deleted and restored; searched and sorted.
import { json } from "../shared/api.js";
import { listen } from "../shared/events.js";
import { latest } from "../shared/latest.js";
import { arranged } from "./arranging.js";

let wanted = ""; // the selector of what is to have the focus

/**
 * Puts the focus on an element once it is shown, unless another is to have it by then.
 * @param {string} selector
 * @param {number} [frames] that are waited for it
 */
function focusOn(selector, frames = 120) {
  wanted = selector;
  const again = (left) => {
    if (wanted !== selector) return;
    const at = document.querySelector(selector);
    if (at instanceof HTMLElement) at.focus();
    if (!left || (at && document.activeElement === at)) wanted = "";
    else requestAnimationFrame(() => again(left - 1));
  };
  again(frames);
}

// a selector of what has the focus in the list; empty where it is elsewhere
const placeOf = (element) => {
  const row = element?.closest(".shelf [data-mechanism]");
  if (!row) return "";
  const within = element.dataset.act ? `[data-act="${element.dataset.act}"]` : ".shelf-name";
  return `.shelf [data-mechanism="${row.dataset.mechanism}"] ${within}`;
};
const rowOf = (event) => event.target.closest("[data-mechanism], [data-module]").dataset;
const nameOf = (mechanism) => `.shelf [data-mechanism="${mechanism}"] .shelf-name`;

document.addEventListener("alpine:init", () => {
  window.Alpine.data("shelf", () => ({
    name: "",
    error: "",
    search: "",
    sort: "changed",
    folder: "", // which is shown; empty: all
    folders: [],
    moving: "",
    newFolder: "",
    countWords: "",
    notice: "",
    undoes: "", // the mechanism that was deleted last
    renaming: "",
    newName: "",
    init() {
      this.arrange();
      if (document.querySelector("[data-unchecked]")) listen("/api/events", ["shelf"], { shelf: () => this.refresh() });
    },
    // verdicts arrive while the shelf is being checked
    async refresh() {
      await this.renew();
    },
    // the list and the bin as they are now; the focus stays where it was
    async renew() {
      await latest("shelf", async (when) => {
        const reply = await when(fetch("/").then((answer) => answer.text())),
          page = new DOMParser().parseFromString(reply, "text/html"),
          at = placeOf(document.activeElement);
        if (this.renaming || this.moving) return; // a name is being typed
        for (const part of [".shelf", ".shelf-bin"]) {
          const [old, next] = [document.querySelector(part), page.querySelector(part)];
          if (old && next) old.replaceChildren(...next.childNodes);
          else if (next) return window.location.reload();
          else old?.remove();
        }
        this.arrange();
        if (at && !wanted) focusOn(at);
      });
    },
    arrange() {
      const list = document.querySelector(".shelf");
      if (!list) return;
      const rows = /** @type {HTMLElement[]} */ ([...list.children]).map((li) => {
        const { name, folder, changed, failing } = li.dataset;
        return { li, name, folder, changed, failing };
      });
      this.folders = [...new Set(rows.map((r) => r.folder).filter(Boolean))].sort((a, b) => a.localeCompare(b, "en"));
      if (!this.folders.includes(this.folder)) this.folder = "";
      const shown = arranged(rows, this.search, this.sort, this.folder);
      for (const { li } of rows) li.hidden = true;
      for (const { li } of shown) {
        li.hidden = false;
        list.append(li);
      }
      this.countWords = this.search.trim() || this.folder ? `${shown.length} of ${rows.length}` : "";
    },
    // does something about a mechanism, and shows the shelf anew, its focus on `then`
    async act(method, path, words, then, { body = undefined, undoes = "" } = {}) {
      this.error = this.undoes = "";
      try {
        await json(method, path, body);
        await this.renew();
        Object.assign(this, { notice: words, undoes });
        window.Alpine.nextTick(() => focusOn(then));
      } catch (error) {
        this.error = error.message;
      }
    },
    async duplicate(event) {
      const { mechanism, name } = rowOf(event);
      await this.act("POST", `/api/mechanisms/${mechanism}/copy`, `${name} duplicated.`, ".shelf li .shelf-name");
    },
    async remove(event) {
      const { mechanism, name } = rowOf(event);
      await this.act("DELETE", `/api/mechanisms/${mechanism}`, `${name} deleted.`, ".shelf-notice button", {
        undoes: mechanism,
      });
    },
    async undoDelete() {
      const back = this.undoes;
      await this.act("POST", `/api/mechanisms/${back}/restore`, "Restored.", nameOf(back));
    },
    async restore(event) {
      const { mechanism, name } = rowOf(event);
      await this.act("POST", `/api/mechanisms/${mechanism}/restore`, `${name} restored.`, nameOf(mechanism));
    },
    async putDemo(event) {
      const { module } = rowOf(event);
      await this.act("POST", `/api/mechanisms/demo/${module}`, "It is on the shelf.", ".shelf li .shelf-name");
    },
    beginMove(event) {
      const { mechanism, folder } = rowOf(event);
      Object.assign(this, { moving: mechanism, newFolder: folder });
      window.Alpine.nextTick(() => {
        const form = document.querySelector("form.shelf-rename:has(#folder-name)");
        document.querySelector(`.shelf [data-mechanism="${mechanism}"]`).append(form);
        form.querySelector("input").select();
      });
    },
    endMove() {
      const at = nameOf(this.moving);
      this.moving = "";
      focusOn(at);
    },
    async moveToFolder() {
      const mechanism = this.moving,
        folder = this.newFolder.trim();
      this.moving = "";
      const words = folder ? `Now in ${folder}.` : "Now in no folder.";
      await this.act("PUT", `/api/mechanisms/${mechanism}/folder`, words, nameOf(mechanism), { body: { folder } });
    },
    beginRename(event) {
      const { mechanism, name } = rowOf(event);
      Object.assign(this, { renaming: mechanism, newName: name });
      window.Alpine.nextTick(() => {
        const form = document.querySelector(".shelf-rename:has(#rename-name)");
        document.querySelector(`.shelf [data-mechanism="${mechanism}"]`).append(form);
        form.querySelector("input").select();
      });
    },
    endRename() {
      const at = nameOf(this.renaming);
      this.renaming = "";
      focusOn(at);
    },
    async rename() {
      const mechanism = this.renaming,
        name = this.newName.trim();
      if (!name) {
        this.error = "Give it a name first.";
        return;
      }
      this.renaming = "";
      const state = await json("GET", `/api/mechanisms/${mechanism}`).catch((error) => {
        this.error = error.message;
      });
      if (!state) return;
      const command = { kind: "set_value", path: "name", value: name };
      const path = `/api/mechanisms/${mechanism}/commands`;
      await this.act("POST", path, `Renamed to ${name}.`, nameOf(mechanism), {
        body: { revision: state.revision, command },
      });
    },
    async create() {
      this.error = "";
      if (!this.name.trim()) {
        this.error = "Give it a name first.";
        return;
      }
      try {
        const created = await json("POST", "/api/mechanisms", { name: this.name });
        window.location.assign(`/mechanisms/${created.id}`);
      } catch (error) {
        this.error = error.message;
      }
    },
    file: null,
    units: [],
    async openFile(input) {
      const file = input.files[0];
      input.value = "";
      await this.readFile(file, "");
    },
    async readIn(unit) {
      await this.readFile(this.file, unit);
    },
    // all mechanisms of an archive of a shelf; what is refused is named, the others are there
    async readShelf(file) {
      this.error = "";
      try {
        const { created, refused } = await json("POST", "/api/shelf", file);
        const reasons = Object.entries(refused).map(([name, why]) => `${name}: ${why}`);
        if (!reasons.length) window.location.reload();
        else this.error = `${created.length} imported. ${reasons.slice(0, 3).join("; ")}`;
      } catch (error) {
        this.error = error.message;
      }
    },
    async readFile(file, unit) {
      if (file.name.endsWith(".shelf.zip")) {
        await this.readShelf(file);
        return;
      }
      Object.assign(this, { error: "", units: [], file });
      try {
        const created = await json("POST", `/api/files/${encodeURIComponent(file.name)}?unit=${unit}`, file);
        window.location.assign(`/mechanisms/${created.id}`);
      } catch (error) {
        if (error.fields?.[0]?.path === "unit") this.units = ["mm", "cm", "m", "in"];
        this.error =
          (error.fields || [])
            .slice(0, 3)
            .map((f) => `${f.path}: ${f.reason}`)
            .join("; ") || error.message;
      }
    },
  }));
});
