// Lengths that are typed where nothing is asked of the server.
import assert from "node:assert/strict";
import { test } from "node:test";
import { lengthOf } from "../../src/uhrwerk/web/static/js/shared/lengths.js";

test("a number with a unit, or in the one that is shown", () => {
  assert.ok(Math.abs(lengthOf("12.5", "mm") - 0.0125) < 1e-15);
  assert.ok(Math.abs(lengthOf("-0.5 in", "mm") + 0.0127) < 1e-15);
  assert.ok(Math.abs(lengthOf("1,5", "in") - 0.0381) < 1e-15);
  assert.ok(Math.abs(lengthOf(" .25 m ", "in") - 0.25) < 1e-15);
});

test("anything else is none", () => {
  for (const text of ["", "mm", "3 ft", "1.2.3", "1e9", "2 * 3"]) assert.equal(lengthOf(text, "mm"), null);
});
