// Which way each driven joint goes first: an arrow round its axis, or along it. Shown in the step Drive.
import * as T from "../../vendor/three/three.min.js";

const BRASS = 0xa8741a,
  ROUND = 28, // pieces of an arc
  REACH = 4.4, // of it, rad
  SIZE = 0.055; // of the mechanism

export class Drives {
  constructor(stage) {
    this.stage = stage;
    this.group = new T.Group();
    this.group.visible = false;
    this.all = [];
    stage.scene.add(this.group);
  }

  // nodes of the scheme; `size` of the mechanism, m
  show(nodes, size) {
    this.group.clear();
    const ink = new T.MeshBasicMaterial({ color: BRASS, depthTest: false, side: T.DoubleSide });
    this.all = nodes
      .filter((n) => n.first)
      .map((n) => {
        const mark = new T.Mesh(new T.BufferGeometry(), ink);
        mark.renderOrder = 4;
        mark.frustumCulled = false;
        const ends = n.symbol === "box" ? straight(n.first) : arc(n.first);
        mark.geometry.setAttribute("position", new T.BufferAttribute(new Float32Array(ends), 3));
        mark.scale.setScalar(size * SIZE);
        this.group.add(mark);
        return { n, mark };
      });
    this.follow();
  }

  // where the joints are now; the arrows do not turn with what they drive
  follow() {
    for (const { n, mark } of this.all) {
      const p = this.stage.parts.get(n.placed);
      if (!p) continue;
      const z = new T.Vector3(...n.z).applyQuaternion(p.group.quaternion);
      mark.position.copy(new T.Vector3(...n.local).applyQuaternion(p.group.quaternion).add(p.group.position));
      mark.quaternion.setFromUnitVectors(new T.Vector3(0, 0, 1), z.normalize());
    }
  }
}

const THICK = 0.11; // of the band, half

// about z, with a tip, as triangles; to the left as z points at the eye where `way` is above nothing
export function arc(way) {
  const at = (k) => (way * REACH * k) / ROUND,
    on = (r, a) => [r * Math.cos(a), r * Math.sin(a), 0],
    out = [];
  for (let k = 0; k < ROUND; k++) {
    const [a, b, c, d] = [
      on(1 - THICK, at(k)),
      on(1 + THICK, at(k)),
      on(1 + THICK, at(k + 1)),
      on(1 - THICK, at(k + 1)),
    ];
    out.push(...a, ...b, ...c, ...a, ...c, ...d);
  }
  const end = at(ROUND);
  return [...out, ...on(1 - 3.2 * THICK, end), ...on(1 + 3.2 * THICK, end), ...on(1, end + way * 0.6)];
}

export function straight(way) {
  const tip = way * 1.9,
    neck = way * 1.2;
  const band = [-THICK, 0, -neck, THICK, 0, -neck, THICK, 0, neck, -THICK, 0, -neck, THICK, 0, neck, -THICK, 0, neck];
  return [...band, -3 * THICK, 0, neck, 3 * THICK, 0, neck, 0, 0, tip];
}
