// Placed parts as solids: their bodies, how they are painted, and where they stand.
import * as T from "../../vendor/three/three.min.js";

const ENAMEL = [0x8f9d95, 0xc9b27a, 0x6f9aa0, 0x9aa7b8, 0x86a08a, 0xb5a88c, 0x7f93a3];
const FRAME = 0xe4dcc8,
  STEEL = 0xb4b4a8,
  INK = 0x22302f,
  BRASS = 0xd9a441,
  BAD_INK = 0xb0301a;
const FAINT = 0.22,
  OUTLINED = 0.5;

// one body: a matte solid with its dark edges; both hang on the part's group
export function bodyOf(part, name, mesh) {
  const g = new T.BufferGeometry();
  g.setAttribute("position", new T.BufferAttribute(mesh.position, 3));
  g.setIndex(new T.BufferAttribute(mesh.index, 1));
  const flat = g.toNonIndexed();
  flat.computeVertexNormals();
  const matte = { side: T.DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 };
  const solid = new T.Mesh(flat, new T.MeshLambertMaterial(matte));
  solid.castShadow = solid.receiveShadow = true;
  const lines = new T.BufferGeometry();
  lines.setAttribute("position", new T.BufferAttribute(mesh.edges, 3));
  const edges = new T.LineSegments(lines, new T.LineBasicMaterial());
  solid.userData = { part, name, mesh };
  part.group.add(solid, edges);
  return { solid, edges };
}

// the same body in fewer triangles, in the same paint, to be drawn in its place while it moves
export function roughen(body, mesh) {
  const g = new T.BufferGeometry(),
    lines = new T.BufferGeometry();
  g.setAttribute("position", new T.BufferAttribute(mesh.position, 3));
  g.setIndex(new T.BufferAttribute(mesh.index, 1));
  const flat = g.toNonIndexed();
  flat.computeVertexNormals();
  lines.setAttribute("position", new T.BufferAttribute(mesh.edges, 3));
  body.rough = [new T.Mesh(flat, body.solid.material), new T.LineSegments(lines, body.edges.material)];
  for (const one of body.rough) one.visible = false;
  body.solid.parent.add(...body.rough);
}

// whether bodies that have fewer triangles are drawn by these
export function exchanged(parts, rough) {
  for (const p of parts)
    for (const { solid, edges, rough: few } of p.bodies.values()) {
      if (!few) continue;
      for (const one of few) one.visible = rough;
      solid.visible = edges.visible = !rough;
    }
}

// the parts as they are to be seen: hidden, seen through, selected, failing
export function painted(stage) {
  const bad = new Set(stage.failing);
  for (const [id, p] of stage.parts) {
    const base =
      p.info.colour || (p.info.isFrame ? FRAME : p.info.element === "pin" ? STEEL : ENAMEL[p.at % ENAMEL.length]);
    const through = stage.clear.has(id) || p.info.leftOut;
    p.group.visible = !stage.hidden.has(id);
    for (const [name, { solid, edges }] of p.bodies) {
      const fails = bad.has(`${id}/${name}`),
        open = through || (fails && stage.shared);
      solid.material.transparent = open;
      solid.material.opacity = through ? FAINT : open ? OUTLINED : 1;
      solid.material.depthWrite = !open;
      solid.castShadow = !through;
      solid.material.color.set(id === stage.selected ? BRASS : base);
      edges.material.color.set(fails ? BAD_INK : INK);
    }
  }
}

// a block of poses: frames x parts x 7, at a frame given as a fraction
export function posed(parts, block, at) {
  const last = block.frames - 1,
    i = Math.min(Math.floor(at), last),
    j = Math.min(i + 1, last),
    f = at - i;
  const q = new T.Quaternion(),
    r = new T.Quaternion();
  for (const p of parts) {
    if (p.at >= block.parts) continue;
    const [a, b] = [i, j].map((k) =>
      block.data.subarray((k * block.parts + p.at) * 7, (k * block.parts + p.at) * 7 + 7),
    );
    p.group.position.set(a[0] + f * (b[0] - a[0]), a[1] + f * (b[1] - a[1]), a[2] + f * (b[2] - a[2]));
    q.set(a[4], a[5], a[6], a[3]);
    r.set(b[4], b[5], b[6], b[3]);
    p.group.quaternion.copy(q.slerp(r, f));
  }
}

// the box round some parts, m
export function boxOf(parts) {
  const box = new T.Box3();
  for (const p of parts) box.expandByObject(p.group);
  return box;
}

// the box round all that parts pass through over a block of poses, looked at in so many moments
export function sweptBox(parts, block, moments = 48) {
  const box = new T.Box3(),
    at = new T.Matrix4(),
    one = new T.Vector3(1, 1, 1),
    corner = new T.Vector3();
  for (const p of parts) {
    const own = new T.Box3();
    for (const { solid } of p.bodies.values()) {
      solid.geometry.computeBoundingBox();
      own.union(solid.geometry.boundingBox);
    }
    if (p.at >= block.parts || own.isEmpty()) continue;
    for (let n = 0; n < moments; n++) {
      const k = Math.round((n / Math.max(1, moments - 1)) * (block.frames - 1)),
        from = (k * block.parts + p.at) * 7;
      const a = block.data.subarray(from, from + 7);
      at.compose(new T.Vector3(a[0], a[1], a[2]), new T.Quaternion(a[4], a[5], a[6], a[3]), one);
      for (let c = 0; c < 8; c++) {
        corner.set(own[c & 1 ? "max" : "min"].x, own[c & 2 ? "max" : "min"].y, own[c & 4 ? "max" : "min"].z);
        box.expandByPoint(corner.applyMatrix4(at));
      }
    }
  }
  return box;
}
