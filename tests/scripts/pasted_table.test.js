import assert from "node:assert/strict";
import { test } from "node:test";
import { cells, spread } from "../../src/uhrwerk/web/static/js/shared/pasted_table.js";

const formula = (path) => ({ path, kind: "formula" }),
  heading = (path) => ({ path, kind: "heading" });
const plate = [
  formula("length"),
  formula("width"),
  heading("bores.bore_1"),
  ...["x", "y", "diameter"].map((k) => formula(`bores.bore_1.${k}`)),
  heading("bores.extra"),
  ...["x", "y", "diameter"].map((k) => formula(`bores.extra.${k}`)),
];
const told = ({ sets, over }) => [sets.map((s) => `${s.path}=${s.text}${s.fresh ? "!" : ""}`).join(" "), over];

test("a text alone is one cell, tabs, semicolons and lines part it", () => {
  assert.deepEqual(cells("70 mm\n"), [["70 mm"]]);
  assert.deepEqual(cells("70 mm\t50 mm\r\n20 mm; 6 mm\n\n"), [
    ["70 mm", "50 mm"],
    ["20 mm", "6 mm"],
  ]);
  assert.deepEqual(cells("1\t\t3"), [["1", "", "3"]]);
});

test("a row goes on into the fields that follow, and skips what is empty", () => {
  assert.deepEqual(told(spread(plate, "length", cells("80 mm\t50 mm"))), ["length=80 mm width=50 mm", 0]);
  assert.deepEqual(told(spread(plate, "bores.bore_1.x", cells("1\t\t3"))), [
    "bores.bore_1.x=1 bores.bore_1.diameter=3",
    0,
  ]);
});

test("rows of a table go to what is there, then to fresh ones with free names", () => {
  const [words, over] = told(spread(plate, "bores.bore_1.x", cells("1\t2\t3\n4\t5\t6\n7\t8\t9\n10")));
  assert.equal(over, 0);
  assert.equal(
    words,
    "bores.bore_1.x=1 bores.bore_1.y=2 bores.bore_1.diameter=3 bores.extra.x=4 bores.extra.y=5 bores.extra.diameter=6 " +
      "bores.bore_2.x=7! bores.bore_2.y=8! bores.bore_2.diameter=9! bores.bore_3.x=10!",
  );
});

test("from a later column on, and what has no field is counted", () => {
  assert.deepEqual(told(spread(plate, "bores.extra.y", cells("5\t6\t7\n8"))), [
    "bores.extra.y=5 bores.extra.diameter=6 bores.bore_2.y=8!",
    1,
  ]);
});
