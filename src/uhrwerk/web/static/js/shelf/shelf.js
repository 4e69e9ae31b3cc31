// The shelf: creating a mechanism, importing one, and its drawings once they are there.
import { json } from "../shared/api.js";
import { listen } from "../shared/events.js";

document.addEventListener("alpine:init", () => {
  window.Alpine.data("shelf", () => ({
    name: "",
    error: "",
    init() {
      if (document.querySelector("[data-unchecked]")) listen("/api/events", ["shelf"], { shelf: () => this.refresh() });
    },
    // verdicts arrive while the shelf is being checked
    async refresh() {
      const reply = await fetch("/").then((answer) => answer.text());
      const fresh = new DOMParser().parseFromString(reply, "text/html");
      document.querySelector(".shelf").replaceWith(fresh.querySelector(".shelf"));
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
    async readFile(file, unit) {
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
