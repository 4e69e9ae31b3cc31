// The centre of gravity of chosen parts: a ball, its way over the cycle, and the principal axes, each as long as its radius of
// gyration.
import * as T from "../../vendor/three/three.min.js";

const INK = 0x22302f,
  AXES = [0x9a3f1d, 0x3f6b2f, 0x4b4593];

function lines(ends, colour) {
  const g = new T.BufferGeometry();
  g.setAttribute("position", new T.BufferAttribute(new Float32Array(ends), 3));
  const drawn = new T.LineSegments(g, new T.LineBasicMaterial({ color: colour, depthTest: false }));
  drawn.renderOrder = 5;
  drawn.frustumCulled = false;
  return drawn;
}

export class Masses {
  constructor(stage) {
    this.stage = stage;
    this.group = new T.Group();
    this.found = null;
    stage.scene.add(this.group);
  }

  // {centre: places over the cycle, arms: three of them at each}; null takes it away
  show(found) {
    this.group.clear();
    this.found = found;
    if (found) {
      this.ball = new T.Mesh(
        new T.SphereGeometry((this.stage.reach || 0.1) * 0.008, 16, 12),
        new T.MeshBasicMaterial({ color: INK, depthTest: false }),
      );
      this.ball.renderOrder = 6;
      this.axes = AXES.map((colour) => lines(new Array(6).fill(0), colour));
      const way = found.centre.slice(1).flatMap((p, k) => [...found.centre[k], ...p]);
      this.group.add(lines(way, INK), ...this.axes, this.ball);
    }
    this.stage.draw();
  }

  // the part of the cycle that is shown: its nearest frame
  at(part) {
    if (!this.found) return;
    const k = Math.round(part * (this.found.centre.length - 1)),
      c = this.found.centre[k];
    this.ball.position.set(...c);
    this.axes.forEach((axis, i) => {
      const arm = this.found.arms[k][i];
      axis.geometry.attributes.position.set([-1, 1].flatMap((s) => c.map((x, n) => x + s * arm[n])));
      axis.geometry.attributes.position.needsUpdate = true;
    });
  }
}
