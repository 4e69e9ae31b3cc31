// Materials of one's own, for all mechanisms.
import { json } from "../shared/api.js";

const BLANK = { name: "", density: "", modulus: "", strength: "", colour: "", source: "" };

document.addEventListener("alpine:init", () => {
  window.Alpine.data("materials", () => ({
    form: { ...BLANK },
    key: "",
    errors: { ...BLANK },
    error: "",

    blank() {
      Object.assign(this, { form: { ...BLANK }, key: "", errors: { ...BLANK }, error: "" });
    },
    async change(key) {
      const all = await json("GET", "/api/materials");
      this.blank();
      this.key = key;
      this.form = { ...all.find((m) => m.id === key).material };
      document.getElementById("material-name").focus();
    },
    async keep() {
      this.errors = { ...BLANK };
      this.error = "";
      try {
        if (this.key) await json("PUT", `/api/materials/${this.key}`, this.form);
        else await json("POST", "/api/materials", this.form);
        window.location.reload();
      } catch (error) {
        for (const f of error.fields || []) this.errors[f.path.split(".").at(-1)] = f.reason;
        if (!error.fields?.length) this.error = error.message;
      }
    },
    async forget(key) {
      await json("DELETE", `/api/materials/${key}`);
      window.location.reload();
    },
  }));
});
