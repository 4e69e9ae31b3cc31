// What is drawn over the solids: datums in brass, and an arrow along one that can be taken and pulled.
import * as T from "../../vendor/three/three.min.js";

const UP = new T.Vector3(0, 1, 0); // the axis of the drawing library's cylinders
const BRASS = 0xa8741a,
  PETROL = 0x0f5c66;
const GRAB = 14; // px

function line(from, to, paint) {
  return new T.Line(new T.BufferGeometry().setFromPoints([from, to]), new T.LineBasicMaterial(paint));
}

// round the drawing library's axis of cylinders
function circle(r) {
  const turn = [...Array(65).keys()].map((k) => (k * Math.PI) / 32);
  return new T.BufferGeometry().setFromPoints(turn.map((a) => new T.Vector3(r * Math.cos(a), 0, r * Math.sin(a))));
}

export class Marks {
  constructor(stage) {
    this.stage = stage;
    this.datums = new T.Group();
    this.arrow = new T.Group();
    this.patch = new T.Group();
    stage.scene.add(this.datums, this.arrow, this.patch);
  }

  // shows datums where they are, each with its axes, z the longest and x the next: [{placed, datum}]
  show(datums) {
    this.datums.clear();
    const reach = this.stage.reach || 0.1,
      paint = { color: BRASS, depthTest: false };
    for (const { placed, datum } of datums) {
      const p = this.stage.parts.get(placed);
      if (!p || !datum) continue;
      const z = new T.Vector3(...datum.z),
        o = new T.Vector3(...datum.origin),
        group = new T.Group();
      group.userData.part = p.group;
      const long = Math.max(Math.abs(datum.length) * 0.8, reach * 0.06),
        middle = o.clone().addScaledVector(z, datum.low + datum.length / 2),
        x = new T.Vector3(...datum.x),
        wide = datum.radius || reach * 0.012;
      if (datum.radius)
        group.add(line(middle.clone().addScaledVector(z, -long), middle.clone().addScaledVector(z, long), paint));
      else if (datum.length)
        group.add(line(...[datum.low, datum.low + datum.length].map((d) => o.clone().addScaledVector(z, d)), paint));
      const arm = Math.max(reach * 0.05, wide * 1.6);
      group.add(...this.#arrow(o, z, arm * 1.4, paint), ...this.#arrow(o, x, arm, paint));
      group.add(line(o, o.clone().addScaledVector(z.clone().cross(x), arm * 0.6), paint));
      const rim = new T.Line(circle(wide), new T.LineBasicMaterial(paint));
      rim.position.copy(o);
      rim.quaternion.setFromUnitVectors(UP, z);
      const spot = new T.Mesh(new T.SphereGeometry(reach * 0.005, 12, 8), new T.MeshBasicMaterial(paint));
      spot.position.copy(o);
      group.add(rim, spot);
      this.datums.add(group);
    }
    this.stage.draw();
  }

  // datums and faces go where their parts have gone
  follow() {
    const p = this.stage.parts.get(this.patched?.placed);
    if (p && this.patched.key !== p.key) this.faces(p.info.id, this.patched.start);
    else if (p) this.#beside(p);
    for (const group of this.datums.children) {
      group.position.copy(group.userData.part.position);
      group.quaternion.copy(group.userData.part.quaternion);
    }
  }

  // an arm of a datum's axes, with a tip
  #arrow(o, way, long, paint) {
    const high = Math.min(long * 0.2, (this.stage.reach || 0.1) * 0.02),
      tip = new T.Mesh(new T.CylinderGeometry(0, high * 0.3, high, 12), new T.MeshBasicMaterial(paint)),
      end = o.clone().addScaledVector(way, long);
    tip.position.copy(end);
    tip.quaternion.setFromUnitVectors(UP, way);
    return [line(o, end, paint), tip];
  }

  // faces of a placed part by how their names begin
  faces(placed, start) {
    this.patch.clear();
    const p = this.stage.parts.get(placed);
    this.patched = p ? { placed, start, key: p.key } : null;
    for (const [body, { solid }] of p?.bodies || []) {
      const names = p.info.faces?.[body] || [],
        { position, index, faceOf } = solid.userData.mesh,
        corners = [];
      faceOf.forEach((face, t) => {
        if (names[face]?.startsWith(start))
          for (const k of [0, 1, 2]) corners.push(...position.subarray(index[3 * t + k] * 3, index[3 * t + k] * 3 + 3));
      });
      if (!corners.length) continue;
      const g = new T.BufferGeometry();
      g.setAttribute("position", new T.BufferAttribute(new Float32Array(corners), 3));
      const paint = {
        color: PETROL,
        side: T.DoubleSide,
        transparent: true,
        opacity: 0.7,
        polygonOffset: true,
        polygonOffsetFactor: -1,
      };
      this.patch.add(new T.Mesh(g, new T.MeshBasicMaterial(paint)));
    }
    if (p) this.#beside(p);
    this.stage.draw();
  }
  #beside(p) {
    this.patch.position.copy(p.group.position);
    this.patch.quaternion.copy(p.group.quaternion);
  }

  // an arrow along a datum: {placed, datum}; `moved(way in m)` says whether it took the way
  handle(mark, moved = null) {
    this.arrow.clear();
    this.moved = mark ? moved : null;
    if (mark) {
      const { group } = this.stage.parts.get(mark.placed),
        long = (this.stage.reach || 0.1) * 0.14;
      group.updateMatrixWorld();
      const o = new T.Vector3(...mark.datum.origin).applyMatrix4(group.matrixWorld);
      const d = new T.Vector3(...mark.datum.z).applyQuaternion(group.quaternion);
      const tip = o.clone().addScaledVector(d, long),
        paint = { color: PETROL, depthTest: false };
      const cone = new T.Mesh(new T.CylinderGeometry(0, long * 0.1, long * 0.3, 20), new T.MeshBasicMaterial(paint));
      cone.position.copy(tip);
      cone.quaternion.setFromUnitVectors(UP, d);
      this.arrow.add(line(o, tip, paint), cone);
      this.at = { o, tip, long };
    }
    this.stage.draw();
  }

  // whether the pointer takes the arrow
  taken(e) {
    if (!this.moved) return false;
    const box = this.stage.canvas.getBoundingClientRect(),
      tip = this.stage.camera.project(this.at.tip.toArray());
    return Math.hypot(tip.x - (e.clientX - box.left), tip.y - (e.clientY - box.top)) < GRAB;
  }

  // how far a way on the screen goes along the arrow, m
  along(dx, dy) {
    const { camera } = this.stage,
      a = camera.project(this.at.o.toArray()),
      b = camera.project(this.at.tip.toArray());
    const ux = b.x - a.x,
      uy = b.y - a.y,
      size = ux * ux + uy * uy;
    return size < 25 ? -dy * camera.grain : ((dx * ux + dy * uy) / size) * this.at.long;
  }
}
