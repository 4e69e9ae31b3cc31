// Paths of points over the cycle, and where each point is now with its velocity.
import * as T from "../../vendor/three/three.min.js";

const LONG = 0.35; // the fastest velocity, in the size of its path

export class Paths {
  constructor(stage) {
    this.stage = stage;
    this.group = new T.Group();
    this.all = [];
    stage.scene.add(this.group);
  }

  // {path: places over the cycle, colour}
  show(paths) {
    this.group.clear();
    this.all = paths.map(({ path, colour }) => {
      const ink = new T.LineBasicMaterial({ color: colour, depthTest: false });
      const legs = path.slice(1).flatMap((p, k) => [...path[k], ...p]);
      const line = pieces(legs, ink),
        arrow = pieces(new Array(18).fill(0), ink);
      this.group.add(line, arrow);
      const low = [0, 1, 2].map((c) => Math.min(...path.map((p) => p[c]))),
        high = [0, 1, 2].map((c) => Math.max(...path.map((p) => p[c])));
      const size = Math.hypot(...high.map((h, c) => h - low[c]));
      const steps = path.slice(1).map((p, k) => Math.hypot(...p.map((v, c) => v - path[k][c])));
      return { path, arrow, scale: (size * LONG) / (Math.max(...steps) || 1) };
    });
  }

  // the part of the cycle that is shown
  at(part) {
    for (const { path, arrow, scale } of this.all) {
      const k = Math.min(path.length - 2, Math.floor(part * (path.length - 1))),
        s = part * (path.length - 1) - k;
      const from = new T.Vector3(...path[k]),
        way = new T.Vector3(...path[k + 1]).sub(from);
      const here = from.clone().addScaledVector(way, s),
        tip = here.clone().addScaledVector(way, scale);
      const look = new T.Vector3();
      this.stage.camera.eye.getWorldDirection(look);
      const side = look.cross(way).normalize(),
        long = way.length() * scale;
      const back = tip.clone().addScaledVector(way, -scale * 0.22);
      const barbs = [1, -1].map((m) => back.clone().addScaledVector(side, m * long * 0.08));
      const ends = [here, tip, tip, barbs[0], tip, barbs[1]].flatMap((p) => [p.x, p.y, p.z]);
      arrow.geometry.attributes.position.set(ends);
      arrow.geometry.attributes.position.needsUpdate = true;
    }
  }
}

function pieces(ends, ink) {
  const g = new T.BufferGeometry();
  g.setAttribute("position", new T.BufferAttribute(new Float32Array(ends), 3));
  const drawn = new T.LineSegments(g, ink);
  drawn.renderOrder = 3;
  drawn.frustumCulled = false;
  return drawn;
}
