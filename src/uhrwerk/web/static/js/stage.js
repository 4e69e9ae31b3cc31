// The stage: solids drawn like a technical illustration. Renders only when something changed.
import * as T from "../vendor/three/three.min.js";

const ENAMEL = [0x8f9d95, 0xc9b27a, 0x6f9aa0, 0x9aa7b8, 0x86a08a, 0xb5a88c, 0x7f93a3];
const FRAME = 0xe4dcc8, STEEL = 0xb4b4a8, INK = 0x22302f, BRASS = 0xd9a441, VERMILION = 0xd9694f, BAD_INK = 0x8c2411;

export class Stage {
  constructor(canvas) {
    this.canvas = canvas;
    canvas.stage = this; // for scripts that drive the page
    this.parts = new Map(); // placed id -> {group, bodies, info}
    this.target = new T.Vector3();
    this.azimuth = -1.9; this.height = 0.85; this.half = 0.1;
    this.scene = new T.Scene();
    this.scene.background = new T.Color(0xf5f0e4);
    this.scene.add(new T.HemisphereLight(0xfffaf0, 0xcfc4ad, 2.3));
    this.sun = new T.DirectionalLight(0xfff6e6, 1.5);
    this.sun.castShadow = true;
    this.sun.shadow.mapSize.set(1024, 1024);
    this.sun.shadow.bias = -0.002;
    this.scene.add(this.sun, this.sun.target);
    this.camera = new T.OrthographicCamera(-1, 1, 1, -1, 0.001, 20);
    this.camera.up.set(0, 0, 1);
    this.marker = new T.Group();
    this.scene.add(this.marker);
    this.arrow = new T.Group();
    this.scene.add(this.arrow);
    this.ongrab = this.ondrag = this.ondrop = null;
    this.hidden = new Set(); this.clear = new Set();
    this.selected = null; this.failing = []; this.onpoint = null; this.onpick = null; this.onview = null;
    try {
      this.renderer = new T.WebGLRenderer({ canvas, antialias: true, preserveDrawingBuffer: true });
      this.renderer.shadowMap.enabled = true;
      this.renderer.shadowMap.type = T.PCFShadowMap;
    } catch {
      this.renderer = null; // no WebGL: everything but the picture still works
    }
    this.#listen();
    new ResizeObserver(() => this.draw()).observe(canvas);
  }

  #listen() {
    const c = this.canvas;
    let from = null;
    c.addEventListener("pointerdown", (e) => {
      from = { x: e.clientX, y: e.clientY, moved: false, pan: e.shiftKey || e.button === 1, event: e, hold: false, arrow: !!this.onarrow && this.#onArrow(e) };
      c.setPointerCapture(e.pointerId);
    });
    c.addEventListener("pointermove", (e) => {
      if (!from) { this.onpoint?.(e); return; }
      const dx = e.clientX - from.x, dy = e.clientY - from.y;
      if (!from.moved && Math.hypot(dx, dy) < 4) return;
      if (!from.moved && !from.pan && !from.arrow) from.hold = this.ongrab?.(from.event) || false;
      from.moved = true;
      if (from.arrow) { if (this.onarrow(this.#alongArrow(dx, dy))) { from.x = e.clientX; from.y = e.clientY; } return; }
      if (from.hold) { this.ondrag(this.#beside(e)); return; }
      from.x = e.clientX; from.y = e.clientY;
      from.pan ? this.pan(dx, dy) : this.turn(-dx * 0.008, dy * 0.008);
    });
    const end = (e) => { if (from && !from.moved && e.type === "pointerup") this.onpick?.(e); if (from?.hold) this.ondrop(); from = null; };
    c.addEventListener("pointerup", end);
    c.addEventListener("pointercancel", end);
    c.addEventListener("wheel", (e) => { e.preventDefault(); this.zoom(Math.exp(e.deltaY * 0.001)); }, { passive: false });
    c.addEventListener("keydown", (e) => {
      const arrows = { ArrowLeft: [1, 0], ArrowRight: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
      if (arrows) { e.preventDefault(); e.shiftKey ? this.pan(arrows[0] * 30, arrows[1] * 30) : this.turn(arrows[0] * 0.12, arrows[1] * 0.12); }
      else if (e.key === "+") this.zoom(0.85);
      else if (e.key === "-") this.zoom(1.18);
    });
  }

  turn(a, h) { this.azimuth += a; this.height = Math.min(1.5607, Math.max(-1.5607, this.height + h)); this.draw(); }
  zoom(f) { this.half = Math.min(5, Math.max(0.001, this.half * f)); this.draw(); }
  pan(dx, dy) {
    const scale = (2 * this.half) / this.canvas.clientHeight, right = new T.Vector3(), up = new T.Vector3();
    this.camera.matrixWorld.extractBasis(right, up, new T.Vector3());
    this.target.addScaledVector(right, -dx * scale).addScaledVector(up, dy * scale);
    this.draw();
  }

  look(from) {
    const flat = 0, up = 1.5607, q = Math.PI / 2;
    [this.azimuth, this.height] = { top: [-q, up], below: [-q, -up], front: [-q, flat], back: [q, flat], left: [Math.PI, flat], right: [0, flat], corner: [-1.9, 0.85] }[from];
    this.fit();
  }

  // square onto the face (or along the axis) that lies under the pointer
  lookStraight(found) {
    const one = found.find((f) => f.datum);
    if (!one) return false;
    const z = new T.Vector3(...one.datum.z).applyQuaternion(this.parts.get(one.placed).group.quaternion);
    const eye = new T.Vector3().setFromMatrixColumn(this.camera.matrixWorld, 2);
    if (z.dot(eye) < 0 && one.datum.kind !== "plane") z.negate();
    this.height = Math.max(-1.5607, Math.min(1.5607, Math.asin(z.z)));
    if (Math.hypot(z.x, z.y) > 1e-6) this.azimuth = Math.atan2(z.y, z.x);
    this.draw();
    return true;
  }

  see(hidden, clear) { this.hidden = new Set(hidden); this.clear = new Set(clear); this.paint(); }

  // cuts the picture open: what lies on the far side of a plane square to an axis of the world is not drawn
  section(axis, at) {
    if (!this.renderer) return;
    if (!axis) { this.renderer.clippingPlanes = []; this.draw(); return; }
    const box = this.#box(), k = "xyz".indexOf(axis), low = box.min.getComponent(k), high = box.max.getComponent(k);
    const normal = new T.Vector3().setComponent(k, -1);
    this.renderer.clippingPlanes = [{ normal, constant: low + at * (high - low), isPlane: true }];
    this.draw();
  }

  #box() {
    const box = new T.Box3();
    for (const [id, p] of this.parts) if (!this.hidden.has(id)) box.expandByObject(p.group);
    return box;
  }

  fit() {
    const box = this.#box();
    if (box.isEmpty()) return;
    box.getCenter(this.target);
    this.#aim();
    // the eight corners of the box, seen from the camera
    const inverse = this.camera.matrixWorldInverse, v = new T.Vector3();
    let w = 1e-3, h = 1e-3;
    for (let k = 0; k < 8; k++) {
      v.set(k & 1 ? box.max.x : box.min.x, k & 2 ? box.max.y : box.min.y, k & 4 ? box.max.z : box.min.z).applyMatrix4(inverse);
      w = Math.max(w, Math.abs(v.x)); h = Math.max(h, Math.abs(v.y));
    }
    const { clientWidth, clientHeight } = this.canvas;
    this.half = 1.12 * Math.max(h, (w * clientHeight) / Math.max(1, clientWidth));
    this.reach = box.getSize(v).length();
    this.draw();
  }

  // scene: placed parts of the view; fetchMesh(placed, body) gives a mesh
  async show(scene, fetchMesh) {
    const wanted = new Set(scene.map((p) => p.id));
    for (const [id, p] of this.parts) if (!wanted.has(id)) { this.scene.remove(p.group); this.parts.delete(id); }
    await Promise.all(scene.map(async (info, at) => {
      let p = this.parts.get(info.id);
      if (!p) { p = { group: new T.Group(), bodies: new Map(), key: null }; p.group.matrixAutoUpdate = true; this.parts.set(info.id, p); this.scene.add(p.group); }
      p.info = info; p.at = at;
      if (p.key === info.solid) return;
      const meshes = await Promise.all(info.bodies.map(async (b) => [b, await fetchMesh(info.id, b)]));
      p.group.clear(); p.bodies.clear(); p.key = info.solid;
      for (const [name, mesh] of meshes) p.bodies.set(name, this.#body(p, name, mesh));
    }));
    this.paint();
  }

  #body(part, name, mesh) {
    const g = new T.BufferGeometry();
    g.setAttribute("position", new T.BufferAttribute(mesh.position, 3));
    g.setIndex(new T.BufferAttribute(mesh.index, 1));
    const flat = g.toNonIndexed();
    flat.computeVertexNormals();
    const solid = new T.Mesh(flat, new T.MeshLambertMaterial({ side: T.DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 }));
    solid.castShadow = solid.receiveShadow = true;
    const lines = new T.BufferGeometry();
    lines.setAttribute("position", new T.BufferAttribute(mesh.edges, 3));
    const edges = new T.LineSegments(lines, new T.LineBasicMaterial());
    solid.userData = { part, name, mesh };
    part.group.add(solid, edges);
    return { solid, edges };
  }

  paint() {
    const bad = new Set(this.failing);
    for (const [id, p] of this.parts) {
      const pin = p.info.element === "pin";
      const base = p.info.isFrame ? FRAME : pin ? STEEL : ENAMEL[p.at % ENAMEL.length];
      const through = this.clear.has(id) || p.info.leftOut;
      p.group.visible = !this.hidden.has(id);
      for (const [name, b] of p.bodies) {
        b.solid.material.transparent = through;
        b.solid.material.opacity = through ? 0.22 : 1;
        b.solid.material.depthWrite = !through;
        b.solid.castShadow = !through;
        const fails = bad.has(`${id}/${name}`);
        b.solid.material.color.set(fails ? VERMILION : id === this.selected ? BRASS : base);
        b.edges.material.color.set(fails ? BAD_INK : INK);
      }
    }
    this.draw();
  }

  // poses: Float32Array of frames x parts x 7; at: frame as a fraction
  pose(block, at) {
    this.gliding = (this.gliding || 0) + 1; // whatever glides has its end here
    const count = block.parts, last = block.frames - 1, i = Math.min(Math.floor(at), last), j = Math.min(i + 1, last), f = at - i;
    const q = new T.Quaternion(), r = new T.Quaternion();
    for (const p of this.parts.values()) {
      if (p.at >= count) continue;
      const a = block.data.subarray((i * count + p.at) * 7, (i * count + p.at) * 7 + 7), b = block.data.subarray((j * count + p.at) * 7, (j * count + p.at) * 7 + 7);
      p.group.position.set(a[0] + f * (b[0] - a[0]), a[1] + f * (b[1] - a[1]), a[2] + f * (b[2] - a[2]));
      q.set(a[4], a[5], a[6], a[3]); r.set(b[4], b[5], b[6], b[3]);
      p.group.quaternion.copy(q.slerp(r, f));
    }
    this.draw();
  }

  // poses by placed part: {id: [x, y, z, w, x, y, z]}
  place(poses) {
    this.gliding = (this.gliding || 0) + 1;
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
    return g ? [g.position.x, g.position.y, g.position.z, g.quaternion.w, g.quaternion.x, g.quaternion.y, g.quaternion.z] : [0, 0, 0, 1, 0, 0, 0];
  }

  // a point of a posed part in the world
  world(pose, p) {
    return new T.Vector3(...p).applyQuaternion(new T.Quaternion(pose[4], pose[5], pose[6], pose[3])).add(new T.Vector3(...pose.slice(0, 3))).toArray();
  }

  // the box round some parts, m; null where there are none
  box(ids) {
    const box = new T.Box3();
    for (const id of ids) if (this.parts.has(id)) box.expandByObject(this.parts.get(id).group);
    return box.isEmpty() ? null : box;
  }

  // where every part stands now, by id
  poses() { return Object.fromEntries([...this.parts.keys()].map((id) => [id, this.poseOf(id)])); }

  // glides to poses instead of jumping; at once where motion is not wanted
  glide(poses) {
    const begun = performance.now(), mine = (this.gliding = (this.gliding || 0) + 1);
    const lasts = window.matchMedia("(prefers-reduced-motion: reduce)").matches ? 0 : 260;
    const from = new Map(Object.keys(poses).filter((id) => this.parts.has(id)).map((id) => [id, { at: this.parts.get(id).group.position.clone(), q: this.parts.get(id).group.quaternion.clone() }]));
    return new Promise((done) => {
      const run = (now) => {
        if (mine !== this.gliding) { done(); return; }
        const s = lasts ? Math.min(1, Math.max(0, (now - begun) / lasts)) : 1, ease = s * s * (3 - 2 * s);
        for (const [id, f] of from) {
          const a = poses[id], g = this.parts.get(id)?.group;
          if (!g) continue;
          g.position.set(a[0], a[1], a[2]).lerpVectors(f.at, g.position.clone(), ease);
          g.quaternion.copy(f.q).slerp(new T.Quaternion(a[4], a[5], a[6], a[3]), ease);
        }
        this.draw();
        if (s < 1) requestAnimationFrame(run); else done();
      };
      requestAnimationFrame(run);
    });
  }

  // the solid under the pointer and where it is hit
  solidUnder(e) {
    const hit = this.#hits(e)[0];
    if (!hit) return null;
    this.grabbed = hit.point.clone();
    return { placed: hit.object.userData.part.info.id, point: hit.point.toArray() };
  }

  #hits(e) {
    const box = this.canvas.getBoundingClientRect();
    const ray = new T.Raycaster();
    ray.setFromCamera(new T.Vector2(((e.clientX - box.left) / box.width) * 2 - 1, 1 - ((e.clientY - box.top) / box.height) * 2), this.camera);
    this.scene.updateMatrixWorld();
    const cut = this.renderer?.clippingPlanes[0];
    const solids = [...this.parts.values()].filter((p) => p.group.visible).flatMap((p) => [...p.bodies.values()].map((b) => b.solid));
    return ray.intersectObjects(solids, false).filter((h) => !cut || cut.normal.dot(h.point) + cut.constant > 0);
  }

  // the point of the world under the pointer, as deep as where the part was taken
  #beside(e) {
    const box = this.canvas.getBoundingClientRect(), v = this.grabbed.clone().project(this.camera);
    v.x = ((e.clientX - box.left) / box.width) * 2 - 1;
    v.y = 1 - ((e.clientY - box.top) / box.height) * 2;
    return v.unproject(this.camera).toArray();
  }

  // an arrow along a datum: {placed, datum}; `moved(way in m)` says whether it took the way
  handle(mark, moved = null) {
    this.arrow.clear();
    this.onarrow = mark ? moved : null;
    if (mark) {
      const p = this.parts.get(mark.placed), long = (this.reach || 0.1) * 0.14, z = new T.Vector3(...mark.datum.z);
      p.group.updateMatrixWorld();
      const o = new T.Vector3(...mark.datum.origin).applyMatrix4(p.group.matrixWorld), d = z.applyQuaternion(p.group.quaternion);
      const tip = o.clone().addScaledVector(d, long), paint = { color: 0x0f5c66, depthTest: false };
      this.arrow.add(new T.Line(new T.BufferGeometry().setFromPoints([o, tip]), new T.LineBasicMaterial(paint)));
      const cone = new T.Mesh(new T.CylinderGeometry(0, long * 0.1, long * 0.3, 20), new T.MeshBasicMaterial(paint));
      cone.position.copy(tip);
      cone.quaternion.setFromUnitVectors(new T.Vector3(0, 1, 0), d);
      this.arrow.add(cone);
      this.arrowAt = { o, tip, long };
    }
    this.draw();
  }

  #onArrow(e) {
    const box = this.canvas.getBoundingClientRect(), tip = this.project(this.arrowAt.tip.toArray());
    return Math.hypot(tip.x - (e.clientX - box.left), tip.y - (e.clientY - box.top)) < 14;
  }

  // how far a way on the screen goes along the arrow, m
  #alongArrow(dx, dy) {
    const a = this.project(this.arrowAt.o.toArray()), b = this.project(this.arrowAt.tip.toArray()), ux = b.x - a.x, uy = b.y - a.y, size = ux * ux + uy * uy;
    return size < 25 ? (-dy / this.canvas.clientHeight) * 2 * this.half : ((dx * ux + dy * uy) / size) * this.arrowAt.long;
  }

  // every datum under the pointer, nearest first
  under(e) {
    const box = this.canvas.getBoundingClientRect();
    const hits = this.#hits(e), found = this.#rims(e.clientX - box.left, e.clientY - box.top);
    for (const hit of hits) {
      const { part, name, mesh } = hit.object.userData;
      const datum = part.info.datums[mesh.datumOf[mesh.faceOf[hit.faceIndex]]];
      if (!found.some((f) => f.placed === part.info.id && f.datum === datum)) found.push({ placed: part.info.id, body: name, datum, part: part.info });
    }
    return found;
  }

  // axes whose rim the pointer is on or within, the nearest to the eye first: a bore is hard to hit on its wall
  #rims(x, y) {
    const scale = this.canvas.clientHeight / (2 * this.half), near = [], o = new T.Vector3(), z = new T.Vector3();
    for (const p of this.parts.values()) {
      if (!p.group.visible) continue;
      for (const datum of p.info.datums) {
        if (datum.kind !== "axis" || !datum.radius) continue;
        const ends = [0, datum.length].map((d) => o.set(...datum.origin).addScaledVector(z.set(...datum.z), d).applyMatrix4(p.group.matrixWorld).clone());
        const depth = ends.map((v) => v.clone().project(this.camera).z), end = ends[depth[0] < depth[1] ? 0 : 1];
        const at = this.project(end.toArray());
        if (Math.hypot(at.x - x, at.y - y) <= datum.radius * scale + 4) near.push({ depth: Math.min(...depth), placed: p.info.id, datum, part: p.info });
      }
    }
    return near.sort((a, b) => a.depth - b.depth);
  }

  // shows datums in brass: [{placed, datum}]
  mark(datums) {
    this.marker.clear();
    const reach = this.reach || 0.1;
    for (const { placed, datum } of datums) {
      const p = this.parts.get(placed);
      if (!p || !datum) continue;
      p.group.updateMatrixWorld();
      const z = new T.Vector3(...datum.z), o = new T.Vector3(...datum.origin);
      const group = new T.Group();
      group.applyMatrix4(p.group.matrixWorld);
      const long = Math.max(Math.abs(datum.length) * 1.6, reach * 0.06);
      const line = new T.BufferGeometry().setFromPoints([o.clone().addScaledVector(z, -long), o.clone().addScaledVector(z, long)]);
      const paint = { color: 0xa8741a, depthTest: false };
      group.add(new T.Line(line, new T.LineBasicMaterial(paint)));
      const ring = new T.Mesh(new T.CylinderGeometry(datum.radius || reach * 0.012, datum.radius || reach * 0.012, reach * 0.002, 40), new T.MeshBasicMaterial({ ...paint, transparent: true, opacity: 0.55 }));
      ring.position.copy(o);
      ring.quaternion.setFromUnitVectors(new T.Vector3(0, 1, 0), z);
      group.add(ring);
      this.marker.add(group);
    }
    this.draw();
  }

  // where a point of the world is on the canvas, in CSS pixels
  project(point) {
    const v = new T.Vector3(...point).project(this.camera);
    return { x: ((v.x + 1) / 2) * this.canvas.clientWidth, y: ((1 - v.y) / 2) * this.canvas.clientHeight };
  }

  #aim() {
    const d = 5;
    this.camera.position.set(this.target.x + d * Math.cos(this.height) * Math.cos(this.azimuth), this.target.y + d * Math.cos(this.height) * Math.sin(this.azimuth), this.target.z + d * Math.sin(this.height));
    this.camera.lookAt(this.target);
    this.camera.updateMatrixWorld();
  }

  draw() {
    if (this.pending) return;
    this.pending = true;
    requestAnimationFrame(() => { this.pending = false; this.#render(); });
  }

  #render() {
    const { clientWidth: w, clientHeight: h } = this.canvas;
    if (!w || !h) return;
    this.#aim();
    Object.assign(this.camera, { left: (-this.half * w) / h, right: (this.half * w) / h, top: this.half, bottom: -this.half });
    this.camera.updateProjectionMatrix();
    const r = (this.reach || 0.3) * 0.8;
    this.sun.target.position.copy(this.target);
    this.sun.position.set(this.target.x - 0.5 * r, this.target.y - 0.25 * r, this.target.z + r);
    Object.assign(this.sun.shadow.camera, { left: -r, right: r, top: r, bottom: -r, near: 0.001, far: 4 * r });
    this.sun.shadow.camera.updateProjectionMatrix();
    if (this.renderer) {
      this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
      this.renderer.setSize(w, h, false);
      this.renderer.render(this.scene, this.camera);
    }
    this.canvas.dataset.drawn = String(Number(this.canvas.dataset.drawn || 0) + 1);
    this.onview?.();
  }
}
