// Pointer and keys on the stage: turn, shift, zoom, take hold of a part, pull the arrow, point and pick.
const STILL = 4; // px: less is a click
const TURN = 0.008; // rad a pixel
const ARROWS = { ArrowLeft: [1, 0], ArrowRight: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

export function listen(stage) {
  const { canvas, marks, grips } = stage;
  let from = null;
  canvas.addEventListener("pointerdown", (e) => {
    const pan = e.shiftKey || e.button === 1;
    from = {
      x: e.clientX,
      y: e.clientY,
      moved: false,
      pan,
      event: e,
      hold: false,
      arrow: marks.taken(e),
      grip: grips.taken(e),
    };
    canvas.setPointerCapture(e.pointerId);
  });
  canvas.addEventListener("pointermove", (e) => {
    if (!from) {
      stage.onpoint?.(e);
      return;
    }
    const dx = e.clientX - from.x,
      dy = e.clientY - from.y;
    if (!from.moved && Math.hypot(dx, dy) < STILL) return;
    if (from.grip) {
      from.moved = true;
      grips.moved(from.grip.kind, from.grip.axis, grips.way(from.grip, from.event, e), false);
      return;
    }
    if (!from.moved && !from.pan && !from.arrow) from.hold = stage.ongrab?.(from.event) || false;
    from.moved = true;
    if (from.hold) {
      stage.ondrag(stage.beside(e));
      return;
    }
    if (from.arrow && !marks.moved(marks.along(dx, dy))) return;
    from.x = e.clientX;
    from.y = e.clientY;
    if (from.arrow) return;
    if (from.pan) stage.pan(dx, dy);
    else stage.turn(-dx * TURN, dy * TURN);
  });
  const end = (e) => {
    if (from && !from.moved && e.type === "pointerup") stage.onpick?.(e);
    if (from?.grip && from.moved)
      grips.moved(from.grip.kind, from.grip.axis, grips.way(from.grip, from.event, e), true);
    if (from?.hold) stage.ondrop();
    from = null;
  };
  canvas.addEventListener("pointerup", end);
  canvas.addEventListener("pointercancel", end);
  canvas.addEventListener(
    "wheel",
    (e) => {
      e.preventDefault();
      stage.zoom(Math.exp(e.deltaY * 0.001));
    },
    { passive: false },
  );
  canvas.addEventListener("keydown", (e) => {
    const way = ARROWS[e.key];
    if (!e.ctrlKey && !e.metaKey && stage.onkey?.(e.key)) {
      e.preventDefault();
      e.stopPropagation();
    } else if (way) {
      e.preventDefault();
      if (e.shiftKey) stage.pan(way[0] * 30, way[1] * 30);
      else stage.turn(way[0] * 0.12, way[1] * 0.12);
    } else if (e.key === "+") stage.zoom(0.85);
    else if (e.key === "-") stage.zoom(1.18);
  });
}
