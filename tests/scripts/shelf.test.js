// The shelf, searched and sorted.
import assert from "node:assert/strict";
import { test } from "node:test";
import { arranged } from "../../src/uhrwerk/web/static/js/shelf/arranging.js";

const rows = [
  { name: "Pusher 10", changed: "3", failing: "0" },
  { name: "Foil tucker", changed: "1", failing: "2" },
  { name: "Pusher 2", changed: "2", failing: "0" },
];
const names = (search, sort) => arranged(rows, search, sort).map((r) => r.name);

test("by the last change, by name in natural order, failing first", () => {
  assert.deepEqual(names("", "changed"), ["Pusher 10", "Pusher 2", "Foil tucker"]);
  assert.deepEqual(names("", "name"), ["Foil tucker", "Pusher 2", "Pusher 10"]);
  assert.deepEqual(names("", "failing"), ["Foil tucker", "Pusher 2", "Pusher 10"]);
});

test("every word that is searched must be in the name, in any order and case", () => {
  assert.deepEqual(names("2 push", "name"), ["Pusher 2"]);
  assert.deepEqual(names("nothing", "name"), []);
});

test("one folder is shown alone, and searched by its name", () => {
  const filed = rows.map((r, i) => ({ ...r, folder: i === 1 ? "Foil" : i === 2 ? "Drives" : "" }));
  assert.deepEqual(
    arranged(filed, "", "name", "Drives").map((r) => r.name),
    ["Pusher 2"],
  );
  assert.deepEqual(
    arranged(filed, "drives", "name").map((r) => r.name),
    ["Pusher 2"],
  );
});
