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

  // every datum under the pointer, nearest first; with edges and corners where a datum is required
  under(e, edges = false) {
    const box = this.stage.canvas.getBoundingClientRect(),
      [x, y] = [e.clientX - box.left, e.clientY - box.top],
      hits = this.hits(e);
    /** @type {any[]} */
    const found = [...(edges ? this.#edges(x, y, hits[0]) : []), ...this.#rims(x, y)];
    for (const hit of hits) {
      const { part, name, mesh } = hit.object.userData;
      const datum = part.info.datums[mesh.datumOf[mesh.faceOf[hit.faceIndex]]];
      const known = found.some((f) => f.placed === part.info.id && f.datum === datum);
      if (!known) found.push({ placed: part.info.id, body: name, datum, part: part.info });
    }
    return found;
  }

  // corners, then edges, that the pointer is on and that no solid hides, the nearest to the eye first
  #edges(x, y, hit) {
    const { camera } = this.stage,
      near = [],
      slack = (8 * RIM * camera.grain) / (camera.eye.far - camera.eye.near), // beside the edge the face lies a little nearer
      front = hit ? hit.point.clone().project(camera.eye).z + slack : 1;
    for (const p of this.#shown()) {
      for (const datum of p.info.datums) {
        const corner = datum.kind === "point";
        if (!corner && (datum.kind !== "axis" || datum.radius || !datum.length)) continue;
        const [a, b] = [datum.low, datum.low + datum.length].map((d) =>
          new T.Vector3(...datum.origin)
            .addScaledVector(new T.Vector3(...datum.z), d)
            .applyMatrix4(p.group.matrixWorld),
        );
        const [from, to] = [a, b].map((v) => camera.project(v.toArray()));
        const [ux, uy] = [to.x - from.x, to.y - from.y],
          size = ux * ux + uy * uy;
        const s = size ? Math.min(1, Math.max(0, ((x - from.x) * ux + (y - from.y) * uy) / size)) : 0;
        if (Math.hypot(from.x + s * ux - x, from.y + s * uy - y) > (corner ? 2 * RIM : RIM)) continue;
        const depth = a.lerp(b, s).project(camera.eye).z;
        if (depth <= front) near.push({ corner, depth, placed: p.info.id, datum, part: p.info });
      }
    }
    return near.sort((one, other) => Number(other.corner) - Number(one.corner) || one.depth - other.depth);
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
