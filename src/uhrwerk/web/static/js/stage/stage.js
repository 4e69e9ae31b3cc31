// The stage: solids drawn like a technical illustration. Renders only when something changed.
import * as T from "../../vendor/three/three.min.js";
import { Belts } from "./belts.js";
import { Camera } from "./camera.js";
import { Drives } from "./drives.js";
import { Fault } from "./fault.js";
import { listen } from "./gestures.js";
import { Ghost } from "./ghost.js";
import { Grips } from "./grips.js";
import { Loads } from "./loads.js";
import { Marks } from "./marks.js";
import { Masses } from "./masses.js";
import { Paths } from "./paths.js";
import { Picking } from "./picking.js";
import { bodyOf, boxOf, exchanged, painted, posed, roughen, sweptBox } from "./solids.js";
import { Springs } from "./springs.js";

const PAPER = 0xf5f0e4,
  GLIDE = 260, // ms
  STILL = 300, // ms without a change
  COARSE = 0.5, // pixels of the picture for one of the screen, in passing, at most
  COARSEST = 0.25, // and at least, where pictures come too slowly
  FINE = 1.5, // and of a still one
  PACE = [70, 95]; // ms from picture to picture: finer below, coarser above

function lights(scene) {
  scene.add(new T.HemisphereLight(0xfffaf0, 0xcfc4ad, 2.3));
  const sun = new T.DirectionalLight(0xfff6e6, 1.5);
  sun.castShadow = true;
  sun.shadow.mapSize.set(1024, 1024);
  sun.shadow.bias = -0.002;
  scene.add(sun, sun.target);
  return sun;
}

// whether pictures are computed by the processor: then those in passing are drawn coarser, and edges are smoothed by drawing still
// ones finer, which costs it half of what smoothing every picture does
function bySoftware() {
  const gl = document.createElement("canvas").getContext("webgl2"),
    extension = gl?.getExtension("WEBGL_debug_renderer_info");
  const name = extension ? gl.getParameter(extension.UNMASKED_RENDERER_WEBGL) : "";
  gl?.getExtension("WEBGL_lose_context")?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(name);
}

// null where there is no WebGL: everything but the picture still works
function rendererOf(canvas, slow) {
  const context = canvas.getContext("webgl2", { antialias: !slow, preserveDrawingBuffer: true });
  if (!context) return null;
  const renderer = new T.WebGLRenderer({ canvas, context });
  renderer.shadowMap.enabled = true;
  renderer.shadowMap.type = T.PCFShadowMap;
  return renderer;
}

export class Stage {
  constructor(canvas) {
    this.canvas = canvas;
    canvas.stage = this; // for scripts that drive the page
    this.parts = new Map(); // placed id -> {group, bodies, info, at, key}
    this.scene = new T.Scene();
    this.scene.background = new T.Color(PAPER);
    this.sun = lights(this.scene);
    this.camera = new Camera(canvas);
    this.picking = new Picking(this);
    this.marks = new Marks(this);
    this.grips = new Grips(this);
    this.fault = new Fault(this);
    this.ghost = new Ghost(this);
    this.springs = new Springs(this);
    this.paths = new Paths(this);
    this.masses = new Masses(this);
    this.belts = new Belts(this);
    this.drives = new Drives(this);
    this.loads = new Loads(this);
    this.hidden = new Set();
    this.clear = new Set();
    this.selected = null;
    this.failing = [];
    this.gliding = 0;
    this.motion = null; // the block of poses that the whole view fits
    this.onkey = this.onpoint = this.onpick = this.onview = this.ongrab = this.ondrag = this.ondrop = null;
    this.slow = bySoftware();
    this.renderer = rendererOf(canvas, this.slow);
    this.grain = COARSE;
    this.drawn = Number.NEGATIVE_INFINITY;
    this.running = false; // while it is played
    this.still = 0; // the timer after which the picture is drawn in full
    listen(this);
    new ResizeObserver(() => this.draw()).observe(canvas);
  }

  // looking

  turn(a, h) {
    this.camera.turn(a, h);
    this.draw();
  }
  zoom(f) {
    this.camera.zoom(f);
    this.draw();
  }
  pan(dx, dy) {
    this.camera.pan(dx, dy);
    this.draw();
  }
  look(from) {
    this.camera.look(from);
    this.fit();
  }
  // square onto the face (or along the axis) that lies under the pointer
  lookStraight(found) {
    const one = found.find((f) => f.datum);
    if (!one) return false;
    const z = new T.Vector3(...one.datum.z).applyQuaternion(this.parts.get(one.placed).group.quaternion);
    this.camera.straight(z, one.datum.kind === "plane");
    this.draw();
    return true;
  }
  // square onto a plane by its normal and its x in the world, a part in the middle of the picture
  lookAt(normal, x, placed) {
    this.camera.straight(new T.Vector3(...normal), true);
    if (Math.hypot(normal[0], normal[1]) < 1e-6) this.camera.azimuth = Math.atan2(x[1], x[0]) - Math.PI / 2;
    const box = this.box([placed]);
    if (box) this.camera.fit(box);
    this.camera.zoom(1.25); // with room for the bar above
    this.draw();
  }
  // so that all is seen, wherever it goes over the cycle
  // of all that stands on it, m
  get size() {
    const box = boxOf([...this.parts.values()]);
    return box.isEmpty() ? 0 : box.getSize(new T.Vector3()).length();
  }
  fit() {
    const box = boxOf(this.#seen());
    if (this.motion) box.union(sweptBox(this.#seen(), this.motion));
    if (box.isEmpty()) return;
    this.camera.fit(box);
    this.reach = box.getSize(new T.Vector3()).length();
    this.draw();
  }
  project(point) {
    return this.camera.project(point);
  }

  // seeing

  see(hidden, clear) {
    this.hidden = new Set(hidden);
    this.clear = new Set(clear);
    this.paint();
  }
  // cuts the picture open: what lies beyond a place on an axis of the world, m, is not drawn
  section(axis, at) {
    if (!this.renderer) return;
    this.renderer.clippingPlanes = [];
    if (axis) {
      const normal = new T.Vector3().setComponent("xyz".indexOf(axis), -1);
      this.renderer.clippingPlanes = [{ normal, constant: at, isPlane: true }];
    }
    this.draw();
  }
  // from where to where along an axis of the world what is seen reaches, m
  extentAlong(axis) {
    const box = boxOf(this.#seen()),
      k = "xyz".indexOf(axis);
    return box.isEmpty() ? [0, 1] : [box.min.getComponent(k), box.max.getComponent(k)];
  }
  #seen() {
    return [...this.parts].filter(([id]) => !this.hidden.has(id)).map(([, p]) => p);
  }
  // the box round some parts, m; null where there are none
  box(ids) {
    const box = boxOf(ids.map((id) => this.parts.get(id)).filter(Boolean));
    return box.isEmpty() ? null : box;
  }

  // whether some parts lie wholly in the picture
  sees(ids) {
    const box = this.box(ids);
    const { clientWidth, clientHeight } = this.canvas;
    const ends = box ? [box.min, box.max] : [];
    return ends.every((p) =>
      ends.every((q) =>
        ends.every((r) => {
          const at = this.project([p.x, q.y, r.z]);
          return at.x > 0 && at.y > 0 && at.x < clientWidth && at.y < clientHeight;
        }),
      ),
    );
  }

  // solids

  // scene: placed parts of the view; fetchMesh(placed, body) gives a mesh, with `true` one in fewer triangles
  async show(scene, fetchMesh) {
    this.fetchRough = (placed, body) => fetchMesh(placed, body, true);
    const wanted = new Set(scene.map((p) => p.id));
    for (const [id, p] of this.parts) {
      if (wanted.has(id)) continue;
      this.scene.remove(p.group);
      this.parts.delete(id);
    }
    await Promise.all(scene.map((info, at) => this.#showPart(info, at, fetchMesh)));
    this.paint();
  }
  async #showPart(info, at, fetchMesh) {
    let p = this.parts.get(info.id);
    if (!p) {
      p = { group: new T.Group(), bodies: new Map(), key: null };
      this.parts.set(info.id, p);
      this.scene.add(p.group);
    }
    Object.assign(p, { info, at });
    if (p.key === info.solid) return;
    const meshes = await Promise.all(info.bodies.map(async (b) => [b, await fetchMesh(info.id, b)]));
    p.group.clear();
    p.bodies.clear();
    p.key = info.solid;
    for (const [name, mesh] of meshes) p.bodies.set(name, bodyOf(p, name, mesh));
  }
  // meshes in fewer triangles, for what is drawn while it moves, asked for once
  async #roughen() {
    for (const [id, p] of this.parts) {
      if (p.roughKey === p.key) continue;
      p.roughKey = p.key;
      for (const [name, body] of p.bodies) {
        try {
          const mesh = await this.fetchRough(id, name);
          if (p.bodies.get(name) === body) roughen(body, mesh);
        } catch {
          // it is drawn in full then
        }
      }
    }
  }
  // the faces of a part whose names begin so, in brass over the solid; none where `placed` is empty
  markFaces(placed, start) {
    this.marks.faces(placed, start);
  }
  paint() {
    painted(this);
    this.draw();
  }

  // poses

  // block: frames x parts x 7; at: frame as a fraction
  pose(block, at) {
    this.gliding += 1; // whatever glides has its end here
    posed(this.parts.values(), block, at);
    this.ghost.pose(at / Math.max(1, block.frames - 1));
    this.draw();
  }
  // poses by placed part: {id: [x, y, z, w, x, y, z]}
  place(poses) {
    this.gliding += 1;
    for (const [id, a] of Object.entries(poses)) {
      const p = this.parts.get(id);
      if (!p) continue;
      p.group.position.set(a[0], a[1], a[2]);
      p.group.quaternion.set(a[4], a[5], a[6], a[3]);
    }
    this.draw();
  }
  poseOf(id) {
    const g = this.parts.get(id)?.group;
    if (!g) return [0, 0, 0, 1, 0, 0, 0];
    return [...g.position.toArray(), g.quaternion.w, g.quaternion.x, g.quaternion.y, g.quaternion.z];
  }
  // where every part stands now, by id
  poses() {
    return Object.fromEntries([...this.parts.keys()].map((id) => [id, this.poseOf(id)]));
  }
  // a point of a posed part in the world
  // a direction of a part in the world
  along(pose, way) {
    return new T.Vector3(...way).applyQuaternion(new T.Quaternion(pose[4], pose[5], pose[6], pose[3])).toArray();
  }
  // the middle of the box round a part as it stands
  middleOf(placed) {
    const p = this.parts.get(placed);
    return p ? boxOf([p]).getCenter(new T.Vector3()).toArray() : [0, 0, 0];
  }
  // how far a part reaches least along a direction of the world, m
  lowest(placed, way) {
    const p = this.parts.get(placed),
      z = new T.Vector3(...way),
      corner = new T.Vector3();
    let low = Number.POSITIVE_INFINITY;
    for (const { solid } of p?.bodies.values() || []) {
      const { position } = solid.userData.mesh;
      for (let k = 0; k < position.length; k += 3)
        low = Math.min(low, corner.fromArray(position, k).applyMatrix4(p.group.matrixWorld).dot(z));
    }
    return low;
  }
  world(pose, p) {
    const turn = new T.Quaternion(pose[4], pose[5], pose[6], pose[3]);
    return new T.Vector3(...p)
      .applyQuaternion(turn)
      .add(new T.Vector3(...pose.slice(0, 3)))
      .toArray();
  }
  // the same the other way round
  local(pose, p) {
    const turn = new T.Quaternion(pose[4], pose[5], pose[6], pose[3]).invert();
    return new T.Vector3(...p)
      .sub(new T.Vector3(...pose.slice(0, 3)))
      .applyQuaternion(turn)
      .toArray();
  }
  // glides to poses instead of jumping; at once where motion is not wanted
  glide(poses) {
    const begun = performance.now();
    this.gliding += 1;
    const mine = this.gliding,
      lasts = window.matchMedia("(prefers-reduced-motion: reduce)").matches ? 0 : GLIDE;
    const from = Object.keys(poses)
      .map((id) => [id, this.parts.get(id)?.group])
      .filter(([, g]) => g)
      .map(([id, g]) => ({ g, to: poses[id], at: g.position.clone(), q: g.quaternion.clone() }));
    return new Promise((done) => {
      const run = (now) => {
        if (mine !== this.gliding) {
          done();
          return;
        }
        const s = lasts ? Math.min(1, Math.max(0, (now - begun) / lasts)) : 1,
          ease = s * s * (3 - 2 * s);
        for (const { g, to, at, q } of from) {
          g.position.lerpVectors(at, new T.Vector3(to[0], to[1], to[2]), ease);
          g.quaternion.copy(q).slerp(new T.Quaternion(to[4], to[5], to[6], to[3]), ease);
        }
        this.draw();
        if (s < 1) requestAnimationFrame(run);
        else done();
      };
      requestAnimationFrame(run);
    });
  }

  // pointing

  // every datum under the pointer, nearest first
  under(e, edges = false) {
    return this.picking.under(e, edges);
  }
  // the solid under the pointer and where it is hit; what is dragged from there stays as deep
  solidUnder(e) {
    const hit = this.picking.solid(e);
    if (!hit) return null;
    this.grabbed = hit.point.clone();
    return { placed: hit.placed, point: hit.point.toArray() };
  }
  beside(e) {
    return this.camera.beside(e, this.grabbed).toArray();
  }
  mark(datums) {
    // the same marks again, as the pointer moves on over one face, are drawn already
    const key = JSON.stringify(datums.map((m) => [m.placed, m.datum]));
    if (key === this.marked) return;
    this.marked = key;
    this.marks.show(datums);
  }
  handle(mark, moved = null) {
    this.marks.handle(mark, moved);
  }

  // drawing

  draw() {
    if (this.pending) return;
    this.pending = true;
    requestAnimationFrame(() => {
      this.pending = false;
      const now = performance.now();
      const since = now - this.drawn,
        coarse = this.slow && (this.running || since < STILL); // one of many that follow each other
      if (coarse && this.running) this.#pace(since);
      this.#render(coarse);
      this.drawn = performance.now();
      clearTimeout(this.still);
      if (coarse) this.still = setTimeout(() => this.#render(false), STILL);
    });
  }
  // keeps pictures coming, by their grain
  #pace(since) {
    if (since > PACE[1]) this.grain = Math.max(COARSEST, this.grain * 0.9);
    else if (since < PACE[0]) this.grain = Math.min(COARSE, this.grain * 1.05);
  }
  #render(coarse) {
    this.marks.follow();
    const { clientWidth: w, clientHeight: h } = this.canvas;
    if (!w || !h) return;
    this.camera.frame(w, h);
    this.springs.follow();
    this.drives.follow();
    this.loads.follow();
    this.#light();
    if (this.slow) {
      if (coarse) this.#roughen();
      exchanged(this.parts.values(), coarse);
    }
    if (this.renderer) {
      this.renderer.shadowMap.autoUpdate = !coarse;
      this.renderer.setPixelRatio(this.#grain(coarse) * Math.min(2, window.devicePixelRatio));
      this.renderer.setSize(w, h, false);
      this.renderer.render(this.scene, this.camera.eye);
    }
    this.canvas.dataset.drawn = String(Number(this.canvas.dataset.drawn || 0) + 1);
    if (!coarse) this.canvas.dataset.still = String(Number(this.canvas.dataset.still || 0) + 1);
    this.onview?.();
  }
  #grain(coarse) {
    if (!this.slow) return 1;
    return coarse ? this.grain : FINE;
  }
  #light() {
    const r = (this.reach || 0.3) * 0.8,
      { target } = this.camera;
    this.sun.target.position.copy(target);
    this.sun.position.set(target.x - 0.5 * r, target.y - 0.25 * r, target.z + r);
    Object.assign(this.sun.shadow.camera, { left: -r, right: r, top: r, bottom: -r, near: 0.001, far: 4 * r });
    this.sun.shadow.camera.updateProjectionMatrix();
  }
}
