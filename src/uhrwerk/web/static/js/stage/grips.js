// Three arrows and three rings about a part, along the mechanism's axes: pulled, they move it and turn it.
import * as T from "../../vendor/three/three.min.js";

const UP = new T.Vector3(0, 1, 0); // the axis of the drawing library's cylinders
const INK = 0x1d2a35,
  PETROL = 0x0f5c66;
const NEAR = 12; // px within which the pointer takes one
const LONG = 0.16,
  ROUND = 0.1; // of the stage's reach: an arrow, and a ring's radius
const EDGE_ON = 0.15; // sine of the angle between the view and a ring's plane: below, it is turned as on the screen
const STEPS = 24; // points of a ring's quarter

// a quarter of the ring about an axis, between the other two
function quarter(axis, radius) {
  const [u, v] = [new T.Vector3(), new T.Vector3()];
  u.setComponent((axis + 1) % 3, radius);
  v.setComponent((axis + 2) % 3, radius);
  return Array.from({ length: STEPS + 1 }, (_, k) => {
    const angle = (k / STEPS) * (Math.PI / 2);
    return u.clone().multiplyScalar(Math.cos(angle)).addScaledVector(v, Math.sin(angle));
  });
}

export class Grips {
  constructor(stage) {
    this.stage = stage;
    this.group = new T.Group();
    this.moved = null;
    stage.scene.add(this.group);
  }

  // about a point of the world; `moved(kind, axis, way in m or rad, done)` hears of every pull; null hides them
  show(at, moved = null) {
    this.group.clear();
    this.moved = at ? moved : null;
    if (at) {
      const reach = this.stage.reach || 0.1;
      this.at = new T.Vector3(...at);
      this.group.position.copy(this.at);
      for (const axis of [0, 1, 2]) this.#draw(axis, reach * LONG, reach * ROUND);
    }
    this.stage.draw();
  }
  #draw(axis, long, round) {
    const way = new T.Vector3().setComponent(axis, 1),
      tip = way.clone().multiplyScalar(long);
    const line = (points, color) =>
      new T.Line(new T.BufferGeometry().setFromPoints(points), new T.LineBasicMaterial({ color, depthTest: false }));
    const solid = (shape, color) => new T.Mesh(shape, new T.MeshBasicMaterial({ color, depthTest: false }));
    const cone = solid(new T.CylinderGeometry(0, long * 0.06, long * 0.18, 16), PETROL);
    cone.position.copy(tip);
    cone.quaternion.setFromUnitVectors(UP, way);
    const ring = quarter(axis, round),
      knob = solid(new T.SphereGeometry(long * 0.05, 12, 8), INK);
    knob.position.copy(ring[STEPS / 2]);
    this.group.add(line([new T.Vector3(), tip], PETROL), cone, line(ring, INK), knob);
  }

  #onScreen(axis, kind) {
    const reach = this.stage.reach || 0.1,
      own =
        kind === "move" ? new T.Vector3().setComponent(axis, reach * LONG) : quarter(axis, reach * ROUND)[STEPS / 2];
    return this.stage.camera.project(this.at.clone().add(own).toArray());
  }

  // the arrow or ring that the pointer takes: {kind, axis}; null where there is none
  taken(e) {
    if (!this.moved) return null;
    const box = this.stage.canvas.getBoundingClientRect();
    let best = null;
    for (const kind of ["move", "turn"])
      for (const axis of [0, 1, 2]) {
        const { x, y } = this.#onScreen(axis, kind),
          off = Math.hypot(x - (e.clientX - box.left), y - (e.clientY - box.top));
        if (off < NEAR && (!best || off < best.off)) best = { kind, axis, off };
      }
    return best;
  }

  // how far it is pulled from where the pointer took it: along the arrow, m, or round the ring, rad
  way(grip, from, to) {
    const { camera, canvas } = this.stage,
      box = canvas.getBoundingClientRect(),
      middle = camera.project(this.at.toArray());
    if (grip.kind === "move") {
      const tip = this.#onScreen(grip.axis, "move"),
        [ux, uy] = [tip.x - middle.x, tip.y - middle.y],
        size = ux * ux + uy * uy;
      if (size < 25) return 0;
      const along = (to.clientX - from.clientX) * ux + (to.clientY - from.clientY) * uy;
      return (along / size) * (this.stage.reach || 0.1) * LONG;
    }
    const view = new T.Vector3().setFromMatrixColumn(camera.eye.matrixWorld, 2),
      facing = view.getComponent(grip.axis);
    const angle = (e) => {
      if (Math.abs(facing) < EDGE_ON)
        return Math.sign(facing || 1) * Math.atan2(middle.y - (e.clientY - box.top), e.clientX - box.left - middle.x);
      const off = camera.beside(e, this.at).sub(this.at);
      off.addScaledVector(view, -off.getComponent(grip.axis) / facing); // onto the ring's plane
      return Math.atan2(off.getComponent((grip.axis + 2) % 3), off.getComponent((grip.axis + 1) % 3));
    };
    const turned = angle(to) - angle(from);
    return turned - 2 * Math.PI * Math.round(turned / (2 * Math.PI));
  }
}
