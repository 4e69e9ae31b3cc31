// Where a requirement fails: the space that two bodies share as a solid of its own, or a line where they come nearest.
import * as T from "../../vendor/three/three.min.js";

const VERMILION = 0xd9694f;
const DARK = 0x8c2411;
const HATCHES = 14; // lines across what is shared

// where evenly spaced slanted planes cut the triangles: hatching, so that colour is not the only sign
function hatching(mesh, size) {
  const { position: p, index } = mesh;
  const step = size / HATCHES;
  const level = (k) => (p[3 * k] + p[3 * k + 1] + p[3 * k + 2]) / (1.732 * step);
  const out = [];
  for (let t = 0; t < index.length; t += 3) {
    const corners = [index[t], index[t + 1], index[t + 2]];
    const levels = corners.map(level);
    for (let n = Math.ceil(Math.min(...levels)); n <= Math.max(...levels); n++) {
      const ends = [];
      for (let k = 0; k < 3 && ends.length < 2; k++) {
        const [a, b] = [levels[k], levels[(k + 1) % 3]];
        if (a < n === b < n) continue;
        const s = (n - a) / (b - a);
        ends.push([0, 1, 2].map((c) => p[3 * corners[k] + c] * (1 - s) + p[3 * corners[(k + 1) % 3] + c] * s));
      }
      if (ends.length === 2) out.push(...ends[0], ...ends[1]);
    }
  }
  return new Float32Array(out);
}

function lines(ends, order) {
  const g = new T.BufferGeometry();
  g.setAttribute("position", new T.BufferAttribute(ends, 3));
  const drawn = new T.LineSegments(g, new T.LineBasicMaterial({ color: DARK, depthTest: false }));
  drawn.renderOrder = order;
  return drawn;
}

export class Fault {
  constructor(stage) {
    this.stage = stage;
    this.key = ""; // what is shown
    this.group = new T.Group();
    stage.scene.add(this.group);
  }

  clear() {
    this.group.clear();
    this.stage.shared = false;
  }

  // mesh: what two bodies share, in the world; drawn over everything
  solid(mesh) {
    this.clear();
    const g = new T.BufferGeometry();
    g.setAttribute("position", new T.BufferAttribute(mesh.position, 3));
    g.setIndex(new T.BufferAttribute(mesh.index, 1));
    g.computeBoundingBox();
    const size = g.boundingBox.getSize(new T.Vector3()).length() || 1;
    const solid = new T.Mesh(g, new T.MeshBasicMaterial({ color: VERMILION, depthTest: false, side: T.DoubleSide }));
    solid.renderOrder = 1;
    this.group.add(solid, lines(hatching(mesh, size), 2), lines(mesh.edges, 3));
    this.stage.shared = true;
    this.stage.paint();
  }

  // the two nearest points of the world
  line(a, b) {
    this.clear();
    const ends = [a, b].map((p) => new T.Vector3(...p)),
      paint = { color: VERMILION, depthTest: false };
    this.group.add(new T.Line(new T.BufferGeometry().setFromPoints(ends), new T.LineBasicMaterial(paint)));
    const wide = (this.stage.reach || 0.1) * 0.006;
    for (const p of ends) {
      const dot = new T.Mesh(new T.SphereGeometry(wide, 12, 8), new T.MeshBasicMaterial(paint));
      dot.position.copy(p);
      this.group.add(dot);
    }
    this.stage.paint();
  }
}
