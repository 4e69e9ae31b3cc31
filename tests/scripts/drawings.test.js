// What the pointer does on a sheet.
import assert from "node:assert/strict";
import { test } from "node:test";
import { alongOf, movedBy, spotPath } from "../../src/uhrwerk/web/static/js/drawings/sheet_marks.js";

const spot = (x, y, known = "both", view = "front") => ({ x, y, known, view });

test("two places have a distance along what both of them know, the longer one where there are two", () => {
  assert.equal(alongOf(spot(0, 0), spot(3, 4)), "upright");
  assert.equal(alongOf(spot(0, 0), spot(5, 4)), "across");
  assert.equal(alongOf(spot(0, 0, "across"), spot(3, 4)), "across");
  assert.equal(alongOf(spot(0, 0, "across"), spot(3, 4, "upright")), null);
  assert.equal(alongOf(spot(0, 0, "across"), spot(0, 4)), null); // one above the other
  assert.equal(alongOf(spot(0, 0), spot(3, 4, "both", "above")), null);
});

test("a distance moves square to its line, a leader anywhere, both by halves of a millimetre", () => {
  assert.deepEqual(movedBy("across", 4.4, -2.1), { right: 0, up: -2 });
  assert.deepEqual(movedBy("upright", 4.4, -2.1), { right: 4.5, up: 0 });
  assert.deepEqual(movedBy("radius", 4.4, -2.1), { right: 4.5, up: -2 });
});

test("a face is a bar along itself, a point a ring; y runs down on the sheet", () => {
  assert.equal(spotPath(spot(20, 30, "across"), 100), "M20 65V75");
  assert.equal(spotPath(spot(20, 30, "upright"), 100), "M15 70H25");
  assert.ok(spotPath(spot(20, 30), 100).startsWith("M18.4 70a1.6"));
});
