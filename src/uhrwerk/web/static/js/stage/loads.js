// Given forces and torques: an arrow where each acts, along or about its direction; with two tips where the motion says which way.
import * as T from "../../vendor/three/three.min.js";
import { arc, straight } from "./drives.js";

const INK = 0x46545c,
  Z = new T.Vector3(0, 0, 1),
  SIZE = 0.045; // of the mechanism

export class Loads {
  constructor(stage) {
    this.stage = stage;
    this.group = new T.Group();
    this.all = [];
    stage.scene.add(this.group);
  }

  // loads of the view: {turns, a, b: {placed, at}, z, way}; `size` of the mechanism, m
  show(loads, size) {
    this.group.clear();
    const ink = new T.MeshBasicMaterial({ color: INK, depthTest: false, side: T.DoubleSide });
    this.all = loads.map((load) => {
      const mark = new T.Mesh(new T.BufferGeometry(), ink),
        drawn = load.turns ? arc : straight,
        ends = load.way ? drawn(load.way) : [...drawn(1), ...drawn(-1)];
      mark.geometry.setAttribute("position", new T.BufferAttribute(new Float32Array(ends), 3));
      mark.renderOrder = 4;
      mark.frustumCulled = false;
      mark.scale.setScalar(size * SIZE);
      this.group.add(mark);
      return { ...load, mark };
    });
    this.follow();
  }

  // where the parts are now
  follow() {
    for (const { a, b, z, turns, way, mark } of this.all) {
      const [from, to] = [a, b].map((end) => {
        const p = this.stage.parts.get(end.placed);
        return p ? new T.Vector3(...end.at).applyQuaternion(p.group.quaternion).add(p.group.position) : null;
      });
      mark.visible = Boolean(from && to);
      if (!mark.visible) continue;
      const along = z
        ? new T.Vector3(...z).applyQuaternion(this.stage.parts.get(a.placed).group.quaternion)
        : to.clone().sub(from);
      along.normalize();
      mark.quaternion.setFromUnitVectors(Z, along);
      mark.position.copy(to);
      // an arrow that pushes ends where it pushes
      if (!turns && way) mark.position.addScaledVector(along, -way * 1.9 * mark.scale.x);
    }
  }
}
