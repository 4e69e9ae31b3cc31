// Outlines drawn by hand: where points go, and what comes out.
import assert from "node:assert/strict";
import { test } from "node:test";
import {
  bulgeOf,
  endOf,
  joined,
  plain,
  relationsOf,
  SHAPES,
  text,
  traced,
} from "../../src/uhrwerk/web/static/js/drawing/shapes.js";
import { inside, snapped, towards } from "../../src/uhrwerk/web/static/js/drawing/snapping.js";

const near = (a, b, slack = 1e-12) => assert.ok(Math.abs(a - b) < slack, `${a} is not ${b}`);
const around = { points: [], lines: [], drawn: [], grid: 0.5e-3, near: 1e-3 };

test("a point goes to what is there, then in line with what was drawn, then onto the grid", () => {
  const points = [{ x: 0.0123, y: 0.0045, words: "corner" }];
  assert.deepEqual(snapped({ x: 0.0118, y: 0.0048 }, { ...around, points }), { x: 0.0123, y: 0.0045, words: "corner" });
  assert.deepEqual(snapped({ x: 0.00312, y: 0.00488 }, around), { x: 0.003, y: 0.005, words: "" });
  const drawn = [{ x: 0.00123, y: 0 }];
  const upright = snapped({ x: 0.0019, y: 0.01 }, { ...around, drawn });
  assert.deepEqual([upright.x, upright.words], [0.00123, "along y"]);
});

test("a point on an edge stays in line with what was drawn", () => {
  const lines = [{ a: { x: 0, y: 0 }, b: { x: 0.03, y: 0.03 }, words: "on edge" }];
  const on = snapped({ x: 0.0102, y: 0.0098 }, { ...around, lines, drawn: [{ x: 0.01, y: 0.05 }] });
  near(on.x, 0.01);
  near(on.y, 0.01);
});

test("an arc sets out as the piece before it ends", () => {
  const a = { x: 0, y: 0, bulge: 0 },
    b = { x: 0.02, y: 0 };
  const bulge = bulgeOf(b, { x: 0.03, y: 0.01 }, endOf(a, b));
  near(bulge, Math.tan(Math.PI / 8)); // a quarter of a circle
  const end = endOf({ ...b, bulge }, { x: 0.03, y: 0.01 });
  near(end.x, 0);
  near(end.y, 1);
  assert.equal(bulgeOf(b, { x: 0.01, y: 0 }, endOf(a, b)), null); // straight back: a whole turn
});

test("a chain keeps its pieces along x and y, its smooth arcs and its typed lengths", () => {
  const chain = [
    { x: 0, y: 0, typed: "2 * w" },
    { x: 0.02, y: 0 },
    { x: 0.02, y: 0.01, bulge: Math.tan(Math.PI / 8) },
    { x: 0.01, y: 0.02 },
    { x: 0.005, y: 0.03 },
  ];
  assert.deepEqual(Object.values(relationsOf(chain)), [
    { kind: "level", piece: "c1" },
    { kind: "length", piece: "c1", length: "2 * w" },
    { kind: "upright", piece: "c2" },
    { kind: "smooth", corner: "c3" },
  ]);
  assert.equal(traced(chain, "in").corners.c2.x, text(0.02, "in"));
});

test("typed sizes stand in the place of drawn ones, formulas too", () => {
  const made = SHAPES.rectangle(
    [
      { x: 0, y: 0 },
      { x: -0.01, y: 0.02 },
    ],
    "mm",
    ["w", "30"],
  );
  assert.deepEqual([made.length, made.x, made.width, made.y], ["w", "0 mm - (w) / 2", "30", "15 mm"]);
  assert.equal(plain("1.5 in", "mm"), 0.0381);
  assert.equal(plain("w + 1", "mm"), null);
  const to = towards({ x: 0, y: 0 }, { x: 3, y: 4 }, 10);
  near(to.x, 6);
  near(to.y, 8);
});

test("a loop within another is left open, one beside it adds", () => {
  const square = [
    [0, 0],
    [4, 0],
    [4, 4],
    [0, 4],
    [0, 0],
  ];
  const hole = [
    [1, 1],
    [3, 1],
    [3, 3],
    [1, 3],
    [1, 1],
  ];
  assert.equal(inside({ x: 2, y: 0.5 }, [square, hole]), true);
  assert.equal(inside({ x: 2, y: 2 }, [square, hole]), false);
  assert.equal(inside({ x: 5, y: 2 }, [square]), false);
  const one = joined({ kind: "circle" }, { kind: "slot" }, true);
  assert.deepEqual(one, { kind: "difference", of: { a: { kind: "circle" }, b: { kind: "slot" } } });
  assert.deepEqual(Object.keys(joined(one, { kind: "circle" }, true).of), ["a", "b", "n_3"]);
  assert.equal(joined(one, { kind: "circle" }, false).kind, "sum");
});
