// Forms and blocks of numbers.
import assert from "node:assert/strict";
import { test } from "node:test";
import { readMesh, readPoses } from "../../src/uhrwerk/web/static/js/shared/api.js";
import { sorted } from "../../src/uhrwerk/web/static/js/shared/datum_list.js";
import { nested } from "../../src/uhrwerk/web/static/js/shared/forms.js";

const field = (path, text = "", kind = "formula") => ({ path, text, kind });

test("texts by path become one object, to any depth", () => {
  const fields = [field("a.b.c", "1 mm"), field("a.d"), field("name", "", "text"), field("x", "", "heading")];
  assert.deepEqual(nested(fields, { "a.d": "2" }), { a: { b: { c: "1 mm" }, d: "2" }, name: "" });
});

test("references to datums and bodies are taken apart, numbers stay as they are written", () => {
  const fields = [
    field("at", "pin/axis", "datum"),
    { ...field("of.placed", "pin/shank", "reference"), collection: "placed" },
    field("teeth", "12"),
    field("starts", "2 * n"),
    field("law.kind.kind", "cycloid", "kinds"),
  ];
  assert.deepEqual(nested(fields, {}), {
    at: { placed: "pin", datum: "axis" },
    of: { placed: "pin", body: "shank" },
    teeth: "12",
    starts: "2 * n",
    law: { kind: { kind: "cycloid" } },
  });
});

test("poses are read as they are written: frames, parts, seven numbers each", () => {
  const buffer = new ArrayBuffer(8 + 4 * 2 * 3 * 7);
  new Uint32Array(buffer, 0, 2).set([2, 3]);
  new Float32Array(buffer, 8).fill(1.5);
  const poses = readPoses(buffer);
  assert.deepEqual([poses.frames, poses.parts, poses.data.length, poses.data[41]], [2, 3, 42, 1.5]);
});

test("a mesh with an odd number of triangles is read to its last number", () => {
  const [vertices, triangles, edges, faces] = [3, 1, 1, 2];
  const buffer = new ArrayBuffer(16 + vertices * 12 + triangles * 12 + edges * 24 + 4 + faces * 2);
  new Uint32Array(buffer, 0, 4).set([vertices, triangles, edges, faces]);
  new Int16Array(buffer, buffer.byteLength - 4).set([7, -1]);
  const mesh = readMesh(buffer);
  assert.deepEqual([mesh.position.length, mesh.index.length, mesh.edges.length, mesh.faceOf.length], [9, 3, 6, 1]);
  assert.deepEqual([...mesh.datumOf], [7, -1]);
});

test("datums are listed by what they are, then in natural order", () => {
  const datum = (group, name) => ({ group, name });
  const list = [
    datum("Faces", "top"),
    datum("Bores, pins and axes", "bore 10"),
    datum("Bores, pins and axes", "bore 2"),
  ];
  assert.deepEqual(
    sorted(list).map((d) => d.name),
    ["bore 2", "bore 10", "top"],
  );
});
