// Springs between two places of placed parts: coils that follow the pose.
import * as T from "../../vendor/three/three.min.js";

const Z = new T.Vector3(0, 0, 1);
const STEEL = 0x7b8480;

const ROUND = 6, // sides of the wire
  STEPS = 20; // places of the wire a coil

// a wire coiled along z
function coiled({ coil, wire, coils }, long) {
  const count = Math.ceil(coils * STEPS),
    pitch = long / (2 * Math.PI * coils),
    lean = Math.atan2(pitch, coil / 2),
    position = [],
    index = [];
  for (let k = 0; k <= count; k++) {
    const a = (2 * Math.PI * coils * k) / count,
      [c, s] = [Math.cos(a), Math.sin(a)];
    for (let m = 0; m < ROUND; m++) {
      const t = (2 * Math.PI * m) / ROUND,
        out = coil / 2 + (wire / 2) * Math.cos(t),
        up = (wire / 2) * Math.sin(t);
      position.push(
        out * c + up * Math.sin(lean) * s,
        out * s - up * Math.sin(lean) * c,
        (long * k) / count + up * Math.cos(lean),
      );
      if (k === count) continue;
      const [p, q] = [k * ROUND + m, k * ROUND + ((m + 1) % ROUND)];
      index.push(p, p + ROUND, q, q, p + ROUND, q + ROUND);
    }
  }
  const g = new T.BufferGeometry();
  g.setAttribute("position", new T.BufferAttribute(new Float32Array(position), 3));
  g.setIndex(index);
  g.computeVertexNormals();
  return g;
}

// a strip along places [x, y, z], as wide as `width` towards its own side
function strip(places, side, width) {
  const position = [],
    index = [];
  places.forEach((p, k) => {
    for (const m of [-0.5, 0.5]) position.push(...p.map((c, i) => c + m * width * side[i]));
    if (k) index.push(2 * k - 2, 2 * k - 1, 2 * k, 2 * k, 2 * k - 1, 2 * k + 1);
  });
  const g = new T.BufferGeometry();
  g.setAttribute("position", new T.BufferAttribute(new Float32Array(position), 3));
  g.setIndex(index);
  g.computeVertexNormals();
  return g;
}

// a strip wound about z from the inner to the outer diameter
function spiral({ inner, outer, width, coils }) {
  const count = Math.ceil(coils * STEPS),
    places = [];
  for (let k = 0; k <= count; k++) {
    const a = (2 * Math.PI * coils * k) / count,
      r = (inner + ((outer - inner) * k) / count) / 2;
    places.push([r * Math.cos(a), r * Math.sin(a), 0]);
  }
  return strip(places, [0, 0, 1], width);
}

// a strip clamped at the origin whose end is pressed from its height unloaded to the place `to`: a cantilever's line
function leaf({ rest, width, along }, to) {
  const places = [],
    side = [-Math.sin(along), Math.cos(along), 0];
  for (let k = 0; k <= STEPS; k++) {
    const s = k / STEPS;
    places.push([to.x * s, to.y * s, rest * s + ((to.z - rest) * (3 - s) * s * s) / 2]);
  }
  return strip(places, side, width);
}

export class Springs {
  constructor(stage) {
    this.stage = stage;
    this.group = new T.Group();
    this.all = [];
    stage.scene.add(this.group);
  }

  // springs of the view: {shape, a, b: {placed, at}, turn, sizes}, m
  show(springs) {
    this.group.clear();
    const paint = new T.MeshLambertMaterial({ color: STEEL, side: T.DoubleSide });
    this.all = springs.map((s) => {
      const mesh = new T.Mesh(new T.BufferGeometry(), paint);
      this.group.add(mesh);
      const [w, x, y, z] = s.turn;
      return { ...s, mesh, long: 0, bent: null, frame: new T.Quaternion(x, y, z, w) };
    });
    this.follow();
  }

  // where the parts are now
  follow() {
    for (const s of this.all) {
      const [a, b] = [s.a, s.b].map((end) => {
        const p = this.stage.parts.get(end.placed);
        return p ? new T.Vector3(...end.at).applyQuaternion(p.group.quaternion).add(p.group.position) : null;
      });
      s.mesh.visible = Boolean(a && b);
      if (!s.mesh.visible) continue;
      s.mesh.position.copy(a);
      this[s.shape](s, a, b);
    }
  }

  // the coils are made anew where the length has changed by much, and else stretched
  coil(s, a, b) {
    const way = b.clone().sub(a),
      long = Math.max(way.length(), 1e-6);
    if (Math.abs(long / s.long - 1) > 0.15 || !s.long) {
      s.long = long;
      s.mesh.geometry.dispose();
      s.mesh.geometry = coiled(s.sizes, long);
    }
    s.mesh.quaternion.setFromUnitVectors(Z, way.divideScalar(long));
    s.mesh.scale.set(1, 1, long / s.long);
  }

  spiral(s) {
    s.mesh.quaternion.copy(this.stage.parts.get(s.a.placed).group.quaternion).multiply(s.frame);
    if (s.long) return;
    s.long = 1;
    s.mesh.geometry = spiral(s.sizes);
  }

  leaf(s, a, b) {
    s.mesh.quaternion.copy(this.stage.parts.get(s.a.placed).group.quaternion).multiply(s.frame);
    const to = b.clone().sub(a).applyQuaternion(s.mesh.quaternion.clone().invert());
    if (s.bent && s.bent.distanceTo(to) < 1e-5) return;
    s.bent = to;
    s.mesh.geometry.dispose();
    s.mesh.geometry = leaf(s.sizes, to);
  }
}
