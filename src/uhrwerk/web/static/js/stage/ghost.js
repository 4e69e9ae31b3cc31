// Another revision on the same stage: the outlines of what is otherwise there, seen through all.
import * as T from "../../vendor/three/three.min.js";
import { posed } from "./solids.js";

const LINE = 0x0e5a61;
const SAME = 1e-6; // m, and a part of a turn: poses that differ by less are the same

export class Ghost {
  constructor(stage) {
    this.stage = stage;
    this.group = new T.Group();
    this.parts = [];
    this.poses = null;
    stage.scene.add(this.group);
  }

  clear() {
    if (!this.parts.length) return;
    this.group.clear();
    Object.assign(this, { parts: [], poses: null });
    this.stage.draw();
  }

  // placed parts of the other revision with its poses, the current ones with theirs; fetchMesh(placed, body) gives a mesh
  async show(placed, poses, here, posesHere, fetchMesh) {
    const own = new Map(here.map((p, at) => [p.id, { solid: p.solid, at }]));
    const differ = placed
      .map((p, at) => ({ p, at }))
      .filter(({ p, at }) => {
        const now = own.get(p.id);
        return !now || now.solid !== p.solid || moved(poses, at, posesHere, now.at);
      });
    const parts = await Promise.all(
      differ.map(async ({ p, at }) => {
        const group = new T.Group();
        for (const body of p.bodies) group.add(outline(await fetchMesh(p.id, body)));
        return { at, id: p.id, group };
      }),
    );
    this.group.clear();
    for (const { group } of parts) this.group.add(group);
    Object.assign(this, { parts, poses });
  }

  // where they are at a part of the cycle
  pose(part) {
    if (this.poses) posed(this.parts, this.poses, part * (this.poses.frames - 1));
  }
}

function outline(mesh) {
  const g = new T.BufferGeometry();
  g.setAttribute("position", new T.BufferAttribute(mesh.edges, 3));
  const drawn = new T.LineSegments(
    g,
    new T.LineBasicMaterial({ color: LINE, depthTest: false, transparent: true, opacity: 0.7 }),
  );
  drawn.renderOrder = 4;
  return drawn;
}

// whether a part is anywhere else over the cycle
function moved(one, i, other, j) {
  if (one.frames !== other.frames) return true;
  for (let k = 0; k < one.frames; k++)
    for (let c = 0; c < 7; c++)
      if (Math.abs(one.data[(k * one.parts + i) * 7 + c] - other.data[(k * other.parts + j) * 7 + c]) > SAME)
        return true;
  return false;
}
