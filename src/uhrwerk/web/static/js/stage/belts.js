// Belts and chains over wheels whose axes stand still: closed bands along their pitch line. They are drawn, not checked.
import * as T from "../../vendor/three/three.min.js";

const RUBBER = 0x3c4240,
  STEEL = 0x6f7774;

export class Belts {
  constructor(stage) {
    this.group = new T.Group();
    stage.scene.add(this.group);
  }

  // belts of the view: {way: places, axis, width, thick, chain}, m
  show(belts) {
    this.group.clear();
    for (const b of belts) {
      const paint = new T.MeshLambertMaterial({ color: b.chain ? STEEL : RUBBER, side: T.DoubleSide });
      this.group.add(new T.Mesh(band(b), paint));
    }
  }
}

// four edges along the way: low and high, inside and outside of the pitch line
function band({ way, axis, width, thick }) {
  const z = new T.Vector3(...axis),
    places = way.map((p) => new T.Vector3(...p)),
    position = [],
    index = [];
  places.forEach((p, k) => {
    const before = places[k ? k - 1 : places.length - 2],
      after = places[k < places.length - 1 ? k + 1 : 1];
    const out = after.clone().sub(before).cross(z).normalize();
    for (const [up, side] of [
      [-0.5, -0.5],
      [0.5, -0.5],
      [0.5, 0.5],
      [-0.5, 0.5],
    ])
      position.push(
        ...p
          .clone()
          .addScaledVector(z, up * width)
          .addScaledVector(out, side * thick)
          .toArray(),
      );
    if (!k) return;
    for (let m = 0; m < 4; m++) {
      const [a, b] = [4 * (k - 1) + m, 4 * (k - 1) + ((m + 1) % 4)];
      index.push(a, b, b + 4, a, b + 4, a + 4);
    }
  });
  const g = new T.BufferGeometry();
  g.setAttribute("position", new T.BufferAttribute(new Float32Array(position), 3));
  g.setIndex(index);
  g.computeVertexNormals();
  return g;
}
