// One rule for overtaken answers.
import assert from "node:assert/strict";
import { test } from "node:test";
import { latest, overtake } from "../../src/uhrwerk/web/static/js/shared/latest.js";

const after = (ms, value) => new Promise((done) => setTimeout(() => done(value), ms));

test("of two tasks with one key only the later goes on, whichever answer comes first", async () => {
  const out = [];
  const task = (name, ms) =>
    latest("a", async (when) => {
      out.push(await when(after(ms, name)));
      return name;
    });
  const results = await Promise.all([task("first", 30), task("second", 5)]);
  assert.deepEqual(out, ["second"]);
  assert.deepEqual(results, [undefined, "second"]);
});

test("tasks with other keys do not touch one another", async () => {
  const both = [latest("a", (when) => when(after(5, 1))), latest("b", (when) => when(after(1, 2)))];
  assert.deepEqual(await Promise.all(both), [1, 2]);
});

test("a failure is told while the task is the latest, and not once it is overtaken", async () => {
  const told = [];
  const fail = (words, ms) =>
    latest(
      "a",
      async (when) => when(after(ms).then(() => Promise.reject(new Error(words)))),
      (error) => told.push(error.message),
    );
  await Promise.all([fail("first", 1), fail("second", 10)]);
  assert.deepEqual(told, ["second"]);
  await assert.rejects(latest("a", async () => Promise.reject(new Error("nobody hears"))));
});

test("overtake ends whatever runs", async () => {
  let done = false;
  const task = latest("a", async (when) => {
    await when(after(1));
    done = true;
  });
  overtake("a");
  await task;
  assert.equal(done, false);
});
