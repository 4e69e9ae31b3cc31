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

export class Springs {
  constructor(stage) {
    this.stage = stage;
    this.group = new T.Group();
    this.all = [];
    stage.scene.add(this.group);
  }

  // springs of the view: {a, b: {placed, at}, coil, wire, coils}, m
  show(springs) {
    this.group.clear();
    const paint = new T.MeshLambertMaterial({ color: STEEL, side: T.DoubleSide });
    this.all = springs.map((s) => {
      const coil = new T.Mesh(new T.BufferGeometry(), paint);
      this.group.add(coil);
      return { ...s, mesh: coil, long: 0 };
    });
    this.follow();
  }

  // where the parts are now; the coils are made anew where the length has changed by much, and else stretched
  follow() {
    for (const s of this.all) {
      const [a, b] = [s.a, s.b].map((end) => {
        const p = this.stage.parts.get(end.placed);
        return p ? new T.Vector3(...end.at).applyQuaternion(p.group.quaternion).add(p.group.position) : null;
      });
      s.mesh.visible = Boolean(a && b);
      if (!s.mesh.visible) continue;
      const way = b.clone().sub(a),
        long = Math.max(way.length(), 1e-6);
      if (Math.abs(long / s.long - 1) > 0.15 || !s.long) {
        s.long = long;
        s.mesh.geometry.dispose();
        s.mesh.geometry = coiled(s, long);
      }
      s.mesh.position.copy(a);
      s.mesh.quaternion.setFromUnitVectors(Z, way.divideScalar(long));
      s.mesh.scale.set(1, 1, long / s.long);
    }
  }
}
