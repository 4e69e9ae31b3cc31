// The cycle: moments in words, charts, lanes, and where a drawn corner goes.
import assert from "node:assert/strict";
import { test } from "node:test";
import { panesOf, round, ticks, valueAt } from "../../src/uhrwerk/web/static/js/cycle/curve_chart.js";
import { drawnTo, stretches } from "../../src/uhrwerk/web/static/js/cycle/segment_snapping.js";
import { below, outside } from "../../src/uhrwerk/web/static/js/cycle/timing_chart.js";
import { atWords, clock, momentWords } from "../../src/uhrwerk/web/static/js/shared/moment_words.js";

const input = (last, unit = "°") => ({
  kind: "input",
  steady: true,
  unit,
  points: [
    [0, 10],
    [1, 10 + last],
  ],
});

test("a moment is said by the input, or in degrees of the cycle where that is a full turn of it", () => {
  assert.equal(momentWords({ duration: 2, reached: 1, lanes: [] }, 0.25), "90.0° of 360° · 0.500 of 2.000 s");
  const slide = { duration: 1, reached: 1, lanes: [input(40, "mm")] };
  assert.equal(momentWords(slide, 0.5), "20.0 mm of 40 mm · 0.500 of 1.000 s");
  assert.equal(atWords({ duration: 1, reached: 1, lanes: [input(720)] }, 0.5), "180.0°");
  assert.equal(clock({ duration: 1, reached: 1, lanes: [input(1800.5)] }, 1).all, 1800.5);
  assert.equal(momentWords({ duration: 0, reached: 1, lanes: [] }, 0), "");
});

test("a drive that turns both ways is said by its own way, all of it", () => {
  const points = Array.from({ length: 101 }, (_, k) => [
    k / 10,
    k <= 50 ? (900 * k) / 50 : 900 - (900 * (k - 50)) / 50,
  ]);
  const segments = [
    { start: 0, to: 900 },
    { start: 900, to: 0 },
  ];
  const view = { duration: 10, reached: 1, lanes: [{ kind: "input", steady: false, unit: "°", points, segments }] };
  assert.equal(momentWords(view, 0), "0.0° of 1800° · 0.000 of 10.000 s");
  assert.equal(momentWords(view, 0.75), "1350.0° of 1800° · 7.500 of 10.000 s");
});

test("a stop before the end of the cycle is a part of the whole", () => {
  const view = { duration: 0.5, reached: 0.5, lanes: [] };
  assert.equal(momentWords(view, 1), "180.0° of 360° · 0.500 of 1.000 s");
});

test("ticks are round, within the range, and few", () => {
  assert.deepEqual(ticks(0, 10, 5), { at: [0, 2, 4, 6, 8, 10], digits: 0 });
  assert.deepEqual(
    ticks(-0.2, 0.21, 4).at.map((v) => Number(v.toFixed(9))),
    [-0.2, 0, 0.2],
  );
  for (let k = 0; k < 500; k++) {
    const low = (Math.random() - 0.5) * 10 ** (k % 9),
      high = low + Math.random() * 10 ** ((k % 7) - 3) + 1e-9,
      { at } = ticks(low, high, 5);
    assert.ok(at.length <= 12, `${at.length} between ${low} and ${high}`);
    assert.ok(at.every((v) => v >= low - 1e-6 * Math.abs(low) - 1e-9 && v <= high + 1e-6 * Math.abs(high) + 1e-9));
  }
});

test("a curve is read between its points, and not where it is unknown", () => {
  assert.equal(valueAt([0, 1, 2], [0, 10, 40], 1.5), 25);
  assert.equal(valueAt([0, 1, 2], [0, 10, 40], 9), 40);
  assert.equal(valueAt([0, 1, 2], [0, null, 40], 1.5), null);
});

test("curves of one unit share a pane", () => {
  const c = (unit) => ({ series: { unit } });
  assert.deepEqual(
    panesOf([c("mm"), c("N"), c("mm")]).map((p) => [p.unit, p.curves.length]),
    [
      ["mm", 2],
      ["N", 1],
    ],
  );
});

test("a value has as many digits as its size needs, and its sign where it is a difference", () => {
  assert.deepEqual(
    [round(1234.5), round(123.45), round(-12.345), round(0.12345), round(2, true)],
    ["1235", "123.5", "−12.35", "0.1235", "+2.00"],
  );
});

test("runs below a limit and outside a band are told apart", () => {
  const points = [
    [0, 1],
    [1, 0.1],
    [2, 0.2],
    [3, 1],
    [4, 0],
  ];
  assert.deepEqual(below({ limit: 0.5, points }), [points.slice(1, 3), points.slice(4)]);
  assert.deepEqual(below({ limit: 0, points }), [points.slice(4)]);
  assert.deepEqual(outside({ band: [1, 3, 0.15, 0.9], points }), [[points[1]], [points[3]]]);
});

const lane = { begins: 0, unit: "mm" };
const segment = { begin: 10, end: 60, to: 20, loose: ["over", "to"] };

test("a segment that runs over the end of the cycle lies in two stretches", () => {
  assert.deepEqual(stretches(lane, { begin: 10, end: 60 }), [[10, 60]]);
  assert.deepEqual(stretches({ begins: 330 }, { begin: 0, end: 60 }), [
    [330, 360],
    [0, 30],
  ]);
  assert.deepEqual(stretches({ begins: 330 }, { begin: 0, end: 30 }), [[330, 360]]);
  assert.deepEqual(stretches(lane, { begin: 5, end: 5 }), []);
});

test("a corner goes to whole degrees and round values, or to another lane's corner that is near", () => {
  const to = drawnTo(lane, segment, { deg: 3.4, value: 0.3 });
  assert.deepEqual([to.until.toFixed(9), to.to], ["63.000000000", 20.5]);
  const snap = { marks: [64.5], place: (deg) => 2 * deg };
  assert.equal(drawnTo(lane, segment, { deg: 3.4, value: 0 }, snap).until, 64.5);
  assert.equal(drawnTo(lane, segment, { deg: 0.9, value: 0 }, snap).until, 61);
});

test("what is stated as a formula is not drawn, and no segment ends before it begins", () => {
  assert.deepEqual(drawnTo(lane, { ...segment, loose: [] }, { deg: 9, value: 9 }), { until: 60, to: 20 });
  assert.equal(drawnTo(lane, segment, { deg: -300, value: 0 }).until, 10);
});
