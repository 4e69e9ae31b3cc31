// How the stage is looked at: an orthographic camera that circles a point, with the world's z upright.
import * as T from "../../vendor/three/three.min.js";

const STEEP = 1.5607; // rad: just short of straight down, so that up stays up
const DISTANCE = 5; // m: the picture is orthographic, so only clipping depends on it
const Q = Math.PI / 2;
const CORNER = [-1.9, 0.85];
const VIEWS = {
  top: [-Q, STEEP],
  below: [-Q, -STEEP],
  front: [-Q, 0],
  back: [Q, 0],
  left: [Math.PI, 0],
  right: [0, 0],
  corner: CORNER,
};

export class Camera {
  constructor(canvas) {
    this.canvas = canvas;
    this.target = new T.Vector3();
    [this.azimuth, this.height] = CORNER;
    this.half = 0.1; // half the height of the picture, m
    this.eye = new T.OrthographicCamera(-1, 1, 1, -1, 0.001, 20);
    this.eye.up.set(0, 0, 1);
  }

  turn(a, h) {
    this.azimuth += a;
    this.height = Math.min(STEEP, Math.max(-STEEP, this.height + h));
  }

  zoom(f) {
    this.half = Math.min(5, Math.max(0.001, this.half * f));
  }

  pan(dx, dy) {
    const scale = (2 * this.half) / this.canvas.clientHeight,
      right = new T.Vector3(),
      up = new T.Vector3();
    this.eye.matrixWorld.extractBasis(right, up, new T.Vector3());
    this.target.addScaledVector(right, -dx * scale).addScaledVector(up, dy * scale);
  }

  look(from) {
    [this.azimuth, this.height] = VIEWS[from];
  }

  // square onto a plane, or along an axis from the side that is nearer; z is a direction of the world
  straight(z, plane) {
    const eye = new T.Vector3().setFromMatrixColumn(this.eye.matrixWorld, 2);
    if (z.dot(eye) < 0 && !plane) z.negate();
    this.height = Math.max(-STEEP, Math.min(STEEP, Math.asin(z.z)));
    if (Math.hypot(z.x, z.y) > 1e-6) this.azimuth = Math.atan2(z.y, z.x);
  }

  // so that a box of the world fills the picture
  fit(box) {
    box.getCenter(this.target);
    this.aim();
    const inverse = this.eye.matrixWorldInverse,
      v = new T.Vector3();
    let w = 1e-3,
      h = 1e-3;
    for (let k = 0; k < 8; k++) {
      // its eight corners, seen from the eye
      v.set(k & 1 ? box.max.x : box.min.x, k & 2 ? box.max.y : box.min.y, k & 4 ? box.max.z : box.min.z);
      v.applyMatrix4(inverse);
      w = Math.max(w, Math.abs(v.x));
      h = Math.max(h, Math.abs(v.y));
    }
    const { clientWidth, clientHeight } = this.canvas;
    this.half = 1.12 * Math.max(h, (w * clientHeight) / Math.max(1, clientWidth));
  }

  aim() {
    const level = DISTANCE * Math.cos(this.height),
      { x, y, z } = this.target;
    const at = [
      x + level * Math.cos(this.azimuth),
      y + level * Math.sin(this.azimuth),
      z + DISTANCE * Math.sin(this.height),
    ];
    this.eye.position.set(...at);
    this.eye.lookAt(this.target);
    this.eye.updateMatrixWorld();
  }

  // ready to draw a picture of so many pixels
  frame(width, height) {
    this.aim();
    const wide = (this.half * width) / height;
    Object.assign(this.eye, { left: -wide, right: wide, top: this.half, bottom: -this.half });
    this.eye.updateProjectionMatrix();
  }

  // where a point of the world is on the canvas, in CSS pixels
  project(point) {
    const v = new T.Vector3(...point).project(this.eye),
      { clientWidth, clientHeight } = this.canvas;
    return { x: ((v.x + 1) / 2) * clientWidth, y: ((1 - v.y) / 2) * clientHeight };
  }

  // where the pointer is in the picture, each from -1 to 1
  pointer(e) {
    const box = this.canvas.getBoundingClientRect();
    return new T.Vector2(((e.clientX - box.left) / box.width) * 2 - 1, 1 - ((e.clientY - box.top) / box.height) * 2);
  }

  // the point of the world under the pointer, as deep as `point`
  beside(e, point) {
    const { x, y } = this.pointer(e),
      v = point.clone().project(this.eye);
    return v.set(x, y, v.z).unproject(this.eye);
  }

  // metres of a pixel
  get grain() {
    return (2 * this.half) / this.canvas.clientHeight;
  }
}
