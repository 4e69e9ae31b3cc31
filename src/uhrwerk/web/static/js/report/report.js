// The report takes seconds to write: this page shows that, then the report itself.
import { call } from "../shared/api.js";

const waiting = document.querySelector(".report-waiting");
const time = waiting.querySelector(".num");
const begun = performance.now();
const clock = setInterval(() => {
  time.textContent = `${Math.floor((performance.now() - begun) / 1000)} s`;
}, 1000);

async function show() {
  try {
    const answer = await call("GET", document.body.dataset.report);
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    document.title = page.title;
    document.querySelector("main").replaceWith(page.querySelector("main"));
  } catch (error) {
    waiting.querySelector("progress").remove();
    waiting.querySelector("[role=status]").textContent = `The report cannot be written. ${error.message}`;
    time.remove();
  } finally {
    clearInterval(clock);
  }
}

show();
