// What lies under the pointer: solids, and the datums of their faces.
import * as T from "../../vendor/three/three.min.js";

const RIM = 4; // px: how near to a rim counts as on it

export class Picking {
  constructor(stage) {
    this.stage = stage;
  }

  // where the pointer's line meets solids that are drawn, nearest first
  hits(e) {
    const { camera, scene, renderer } = this.stage,
      ray = new T.Raycaster();
    ray.setFromCamera(camera.pointer(e), camera.eye);
    scene.updateMatrixWorld();
    const cut = renderer?.clippingPlanes[0];
    const solids = this.#shown().flatMap((p) => [...p.bodies.values()].map((b) => b.solid));
    return ray.intersectObjects(solids, false).filter((h) => !cut || cut.normal.dot(h.point) + cut.constant > 0);
  }

  #shown() {
    return [...this.stage.parts.values()].filter((p) => p.group.visible);
  }

  // the solid under the pointer and where it is hit
  solid(e) {
    const hit = this.hits(e)[0];
    return hit ? { placed: hit.object.userData.part.info.id, point: hit.point } : null;
  }

  // every datum under the pointer, nearest first
  under(e) {
    const box = this.stage.canvas.getBoundingClientRect();
    const found = this.#rims(e.clientX - box.left, e.clientY - box.top);
    for (const hit of this.hits(e)) {
      const { part, name, mesh } = hit.object.userData;
      const datum = part.info.datums[mesh.datumOf[mesh.faceOf[hit.faceIndex]]];
      const known = found.some((f) => f.placed === part.info.id && f.datum === datum);
      if (!known) found.push({ placed: part.info.id, body: name, datum, part: part.info });
    }
    return found;
  }

  // axes whose rim the pointer is on or within, the nearest to the eye first: a bore is hard to hit on its wall
  #rims(x, y) {
    const { camera } = this.stage,
      near = [],
      z = new T.Vector3();
    for (const p of this.#shown()) {
      for (const datum of p.info.datums) {
        if (datum.kind !== "axis" || !datum.radius) continue;
        const ends = [datum.low, datum.low + datum.length].map((d) =>
          new T.Vector3(...datum.origin).addScaledVector(z.set(...datum.z), d).applyMatrix4(p.group.matrixWorld),
        );
        const depth = ends.map((v) => v.clone().project(camera.eye).z),
          end = ends[depth[0] < depth[1] ? 0 : 1];
        const at = camera.project(end.toArray()),
          within = datum.radius / camera.grain + RIM;
        if (Math.hypot(at.x - x, at.y - y) <= within)
          near.push({ depth: Math.min(...depth), placed: p.info.id, datum, part: p.info });
      }
    }
    return near.sort((a, b) => a.depth - b.depth);
  }
}
