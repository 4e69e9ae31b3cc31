import { json } from "./api.js";

document.addEventListener("alpine:init", () => {
  window.Alpine.data("shelf", () => ({
    name: "",
    error: "",
    async create() {
      this.error = "";
      if (!this.name.trim()) {
        this.error = "Give it a name first.";
        return;
      }
      try {
        const made = await json("POST", "/api/mechanisms", { name: this.name });
        window.location.assign(`/mechanisms/${made.id}`);
      } catch (error) {
        this.error = error.message;
      }
    },
    async openFile(input) {
      this.error = "";
      const file = input.files[0];
      input.value = "";
      try {
        const made = await json("POST", `/api/files/${encodeURIComponent(file.name)}`, file);
        window.location.assign(`/mechanisms/${made.id}`);
      } catch (error) {
        this.error =
          (error.fields || [])
            .slice(0, 3)
            .map((f) => `${f.path}: ${f.reason}`)
            .join("; ") || error.message;
      }
    },
  }));
});
