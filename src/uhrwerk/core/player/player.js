// The player of one mechanism: parts drawn as they stand at a moment of the cycle. Nothing is computed here but the picture.
(() => {
  const $ = (id) => document.getElementById(id);
  const data = JSON.parse($("data").textContent);
  const bytes = (text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0)).buffer;
  const poses = new Float32Array(bytes(data.poses));
  const solids = data.solids.map((s) => ({
    v: new Float32Array(bytes(s.v)),
    t: new Uint32Array(bytes(s.t)),
    e: new Float32Array(bytes(s.e)),
  }));
  const state = {
    time: 0,
    playing: false,
    chosen: -1,
    marked: [],
    points: [],
    hidden: new Set(),
    axis: -1,
    cut: 0,
    side: 1,
  };
  const view = { yaw: -0.63, pitch: 0.53, zoom: 1, x: 0, y: 0 };

  // ---- where everything is -------------------------------------------------------------------------------------------
  function poseAt(part, time) {
    const count = data.parts.length,
      last = data.frames - 1,
      at = last && data.duration ? Math.min(Math.max((time / data.duration) * last, 0), last) : 0,
      k = Math.min(Math.floor(at), Math.max(last - 1, 0)),
      s = at - k,
      a = (k * count + part) * 7,
      b = (Math.min(k + 1, last) * count + part) * 7;
    const out = new Float64Array(7);
    let dot = 0;
    for (let i = 3; i < 7; i++) dot += poses[a + i] * poses[b + i];
    const way = dot < 0 ? -1 : 1;
    for (let i = 0; i < 7; i++) out[i] = (1 - s) * poses[a + i] + s * poses[b + i] * (i > 2 ? way : 1);
    const n = Math.hypot(out[3], out[4], out[5], out[6]);
    for (let i = 3; i < 7; i++) out[i] /= n;
    return out;
  }
  // columns of the matrix that carries a part's points to the world
  function matrix(p) {
    const [x0, y0, z0, w, x, y, z] = p;
    return [
      1 - 2 * (y * y + z * z),
      2 * (x * y + w * z),
      2 * (x * z - w * y),
      0,
      2 * (x * y - w * z),
      1 - 2 * (x * x + z * z),
      2 * (y * z + w * x),
      0,
      2 * (x * z + w * y),
      2 * (y * z - w * x),
      1 - 2 * (x * x + y * y),
      0,
      x0,
      y0,
      z0,
      1,
    ];
  }
  // a box round all parts at the start, m
  const low = [Infinity, Infinity, Infinity],
    high = [-Infinity, -Infinity, -Infinity];
  data.parts.forEach((part, k) => {
    const m = matrix(poseAt(k, 0)),
      v = solids[part.solid].v;
    for (let i = 0; i < v.length; i += 3)
      for (let j = 0; j < 3; j++) {
        const at = m[j] * v[i] + m[4 + j] * v[i + 1] + m[8 + j] * v[i + 2] + m[12 + j];
        low[j] = Math.min(low[j], at);
        high[j] = Math.max(high[j], at);
      }
  });
  const middle = low.map((a, j) => (a + high[j]) / 2),
    reach = Math.hypot(...low.map((a, j) => high[j] - a)) / 2 || 1;

  // right, up and towards the eye
  function axes() {
    const cy = Math.cos(view.yaw),
      sy = Math.sin(view.yaw),
      cp = Math.cos(view.pitch),
      sp = Math.sin(view.pitch);
    return [
      [cy, sy, 0],
      [-sp * sy, sp * cy, cp],
      [cp * sy, -cp * cy, sp],
    ];
  }

  // ---- drawing -------------------------------------------------------------------------------------------------------
  const canvas = $("stage");
  const gl = canvas.getContext("webgl2", { antialias: true, preserveDrawingBuffer: true });
  if (!gl) {
    $("trouble").textContent =
      "This browser has no WebGL 2: the lanes and verdicts below work, the solids are not drawn.";
    $("trouble").hidden = false;
  }
  const HEAD = "#version 300 es\nprecision highp float;\n";
  const VERTEX = `${HEAD}in vec3 p; uniform mat4 eye, part; uniform mat3 turn; uniform float near; out vec3 at; out vec3 world;
    void main() { vec4 w = part * vec4(p, 1.0); world = w.xyz; gl_Position = eye * w; at = turn * w.xyz;
      gl_Position.z -= near; }`;
  const CUT = "uniform vec4 cut; void clip() { if (dot(cut.xyz, world) > cut.w) discard; }";
  const FACES = `${HEAD}in vec3 at; in vec3 world; uniform vec3 colour; ${CUT} out vec4 o;
    void main() { clip(); vec3 n = normalize(cross(dFdx(at), dFdy(at)));
      float light = 0.6 + 0.32 * abs(n.z) + 0.12 * n.y + 0.06 * n.x;
      o = vec4(colour * light, 1.0);
      if (!gl_FrontFacing) o = vec4(mod(gl_FragCoord.x + gl_FragCoord.y, 9.0) < 1.6 ? vec3(0.13, 0.19, 0.18) : colour * 0.55 + 0.45, 1.0); }`;
  const LINES = `${HEAD}in vec3 at; in vec3 world; uniform vec3 colour; ${CUT} out vec4 o; void main() { clip(); o = vec4(colour, 1.0); }`;
  function program(fragment) {
    const p = gl.createProgram();
    for (const [kind, text] of [
      [gl.VERTEX_SHADER, VERTEX],
      [gl.FRAGMENT_SHADER, fragment],
    ]) {
      const s = gl.createShader(kind);
      gl.shaderSource(s, text);
      gl.compileShader(s);
      gl.attachShader(p, s);
    }
    gl.bindAttribLocation(p, 0, "p");
    gl.linkProgram(p);
    return { p, at: (name) => gl.getUniformLocation(p, name) };
  }
  const faces = gl && program(FACES),
    lines = gl && program(LINES);
  function upload(points, index) {
    const array = gl.createVertexArray();
    gl.bindVertexArray(array);
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, points, gl.STATIC_DRAW);
    gl.enableVertexAttribArray(0);
    gl.vertexAttribPointer(0, 3, gl.FLOAT, false, 0, 0);
    if (index) {
      gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, gl.createBuffer());
      gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, index, gl.STATIC_DRAW);
    }
    return array;
  }
  if (gl) for (const s of solids) Object.assign(s, { faces: upload(s.v, s.t), lines: upload(s.e) });

  function eyeMatrix() {
    const [r, u, t] = axes(),
      wide = canvas.width / canvas.height,
      s = (1.25 * view.zoom) / reach,
      sz = -1 / (6 * reach),
      [sx, sy] = wide > 1 ? [s / wide, s] : [0.8 * s, 0.8 * s * wide];
    const on = (a) => a[0] * middle[0] + a[1] * middle[1] + a[2] * middle[2];
    return [
      r[0] * sx,
      u[0] * sy,
      t[0] * sz,
      0,
      r[1] * sx,
      u[1] * sy,
      t[1] * sz,
      0,
      r[2] * sx,
      u[2] * sy,
      t[2] * sz,
      0,
      -on(r) * sx + view.x,
      -on(u) * sy + view.y,
      -on(t) * sz,
      1,
    ];
  }
  function draw() {
    if (!gl) return;
    const dense = window.devicePixelRatio || 1,
      w = Math.max(1, Math.round(canvas.clientWidth * dense)),
      h = Math.max(1, Math.round(canvas.clientHeight * dense));
    if (canvas.width !== w || canvas.height !== h) Object.assign(canvas, { width: w, height: h });
    gl.viewport(0, 0, w, h);
    gl.clearColor(0.984, 0.973, 0.941, 1);
    gl.enable(gl.DEPTH_TEST);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    const eye = eyeMatrix(),
      [r, u, t] = axes(),
      turned = [r[0], u[0], t[0], r[1], u[1], t[1], r[2], u[2], t[2]],
      cut = [0, 0, 0, 1];
    if (state.axis >= 0) {
      cut[state.axis] = state.side;
      cut[3] = state.side * state.cut;
    }
    for (const [what, each] of [
      [faces, "faces"],
      [lines, "lines"],
    ]) {
      gl.useProgram(what.p);
      gl.uniformMatrix4fv(what.at("eye"), false, eye);
      gl.uniform4fv(what.at("cut"), cut);
      gl.uniform1f(what.at("near"), each === "lines" ? 0.0006 : 0);
      gl.uniformMatrix3fv(what.at("turn"), false, turned);
      data.parts.forEach((part, k) => {
        if (state.hidden.has(k)) return;
        const solid = solids[part.solid],
          marked = state.marked.includes(k);
        gl.uniformMatrix4fv(what.at("part"), false, matrix(poseAt(k, state.time)));
        const ink = marked ? [0.71, 0.2, 0.11] : k === state.chosen ? [0.66, 0.45, 0.1] : [0.13, 0.19, 0.18];
        gl.uniform3fv(what.at("colour"), each === "faces" ? part.colour : ink);
        gl.bindVertexArray(solid[each]);
        if (each === "faces") gl.drawElements(gl.TRIANGLES, solid.t.length, gl.UNSIGNED_INT, 0);
        else gl.drawArrays(gl.LINES, 0, solid.e.length / 3);
      });
    }
  }
  // the part nearest to the eye under a place of the canvas, -1 for none
  function partAt(px, py) {
    const m = eyeMatrix(),
      [, , t] = axes(),
      x = (2 * px) / canvas.clientWidth - 1,
      y = 1 - (2 * py) / canvas.clientHeight;
    let best = -Infinity,
      found = -1;
    data.parts.forEach((part, k) => {
      if (state.hidden.has(k)) return;
      const own = matrix(poseAt(k, state.time)),
        { v, t: corners } = solids[part.solid],
        to = (i) => {
          const w = [0, 1, 2].map(
            (j) => own[j] * v[3 * i] + own[4 + j] * v[3 * i + 1] + own[8 + j] * v[3 * i + 2] + own[12 + j],
          );
          return [
            m[0] * w[0] + m[4] * w[1] + m[8] * w[2] + m[12],
            m[1] * w[0] + m[5] * w[1] + m[9] * w[2] + m[13],
            t[0] * w[0] + t[1] * w[1] + t[2] * w[2],
            w,
          ];
        };
      for (let i = 0; i < corners.length; i += 3) {
        const [a, b, c] = [to(corners[i]), to(corners[i + 1]), to(corners[i + 2])],
          area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
        if (!area) continue;
        const s = ((x - a[0]) * (c[1] - a[1]) - (y - a[1]) * (c[0] - a[0])) / area,
          r = ((b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])) / area;
        if (s < 0 || r < 0 || s + r > 1) continue;
        const depth = a[2] + s * (b[2] - a[2]) + r * (c[2] - a[2]);
        if (state.axis >= 0) {
          const at =
            a[3][state.axis] + s * (b[3][state.axis] - a[3][state.axis]) + r * (c[3][state.axis] - a[3][state.axis]);
          if (state.side * (at - state.cut) > 0) continue;
        }
        if (depth > best) [best, found] = [depth, k];
      }
    });
    return found;
  }

  // ---- time ----------------------------------------------------------------------------------------------------------
  const step = data.frames > 1 ? data.duration / (data.frames - 1) : 0;
  function goTo(time) {
    state.time = Math.min(Math.max(time, 0), data.duration);
    show();
  }
  function play(on) {
    state.playing = on && data.duration > 0;
    if (state.playing) state.marked = [];
    $("play").textContent = state.playing ? "Stop" : "Play";
    $("play").setAttribute("aria-pressed", String(state.playing));
    if (state.playing) requestAnimationFrame(tick);
  }
  let before = 0;
  function tick(now) {
    if (!state.playing) {
      before = 0;
      return;
    }
    const past = before ? ((now - before) / 1000) * Number($("speed").value) : 0;
    before = now;
    state.time = (state.time + past) % data.duration;
    show();
    requestAnimationFrame(tick);
  }

  // ---- lanes ---------------------------------------------------------------------------------------------------------
  const NS = "http://www.w3.org/2000/svg";
  const cursors = [];
  function path(parent, d, name) {
    const p = document.createElementNS(NS, "path");
    p.setAttribute("d", d);
    if (name) p.setAttribute("class", name);
    parent.append(p);
    return p;
  }
  for (const lane of data.lanes) {
    const row = document.createElement("div"),
      label = document.createElement("span"),
      svg = document.createElementNS(NS, "svg"),
      values = [...lane.points.map((p) => p[1]), ...lane.limits],
      [a, b] = [Math.min(...values), Math.max(...values)],
      room = 0.08 * (b - a) || 1,
      x = (t) => (1000 * t) / (data.duration || 1),
      y = (v) => 40 - (40 * (v - a + room)) / (b - a + 2 * room);
    svg.setAttribute("viewBox", "0 0 1000 40");
    svg.setAttribute("preserveAspectRatio", "none");
    svg.setAttribute("aria-hidden", "true");
    for (const v of lane.limits) path(svg, `M0 ${y(v)}H1000`, "limit");
    path(svg, `M${lane.points.map((p) => `${x(p[0])} ${y(p[1])}`).join("L")}`);
    cursors.push({ line: path(svg, "M0 0V40", "cursor"), lane, label });
    const drag = (event) => {
      if (!event.buttons && event.type !== "pointerdown") return;
      const box = svg.getBoundingClientRect();
      play(false);
      goTo(((event.clientX - box.left) / box.width) * data.duration);
    };
    svg.addEventListener("pointerdown", (event) => {
      svg.setPointerCapture(event.pointerId);
      drag(event);
    });
    svg.addEventListener("pointermove", drag);
    row.append(label, svg);
    $("lanes").append(row);
  }
  function valueAt(points, time) {
    let k = points.findIndex((p) => p[0] >= time);
    if (k < 0) k = points.length - 1;
    if (!k) return points[0][1];
    const [[t0, v0], [t1, v1]] = [points[k - 1], points[k]];
    return t1 > t0 ? v0 + ((v1 - v0) * (Math.min(time, t1) - t0)) / (t1 - t0) : v1;
  }

  // ---- what is chosen ------------------------------------------------------------------------------------------------
  const rows = data.parts.map((part, k) => {
    const li = document.createElement("li"),
      seen = document.createElement("input"),
      button = document.createElement("button");
    Object.assign(seen, { type: "checkbox", checked: true });
    seen.setAttribute("aria-label", `Show ${part.name}`);
    seen.addEventListener("change", () => {
      if (seen.checked) state.hidden.delete(k);
      else state.hidden.add(k);
      show();
    });
    Object.assign(button, { type: "button", textContent: part.name });
    button.addEventListener("click", () => choose(k === state.chosen ? -1 : k));
    li.append(seen, button);
    $("parts").append(li);
    return { seen, button };
  });
  function choose(k) {
    state.chosen = k;
    const part = data.parts[k];
    $("part-name").textContent = part ? part.name : "Parts";
    $("part-rows").replaceChildren(
      ...(part ? part.rows : []).map(([label, words]) => {
        const tr = document.createElement("tr");
        for (const text of [label, words])
          tr.append(Object.assign(document.createElement("td"), { textContent: text }));
        return tr;
      }),
    );
    $("part-only").hidden = !part;
    show();
  }
  function showOnly(k) {
    state.hidden = new Set(k < 0 ? [] : data.parts.map((_, i) => i).filter((i) => i !== k));
    show();
  }
  for (const v of data.verdicts) {
    const button = document.createElement("button"),
      word = v.holds === true ? "holds" : v.holds === false ? "fails" : "undecided";
    button.type = "button";
    button.className = { holds: "", fails: "fails", undecided: "open" }[word];
    const head = Object.assign(document.createElement("b"), { textContent: v.name }),
      answer = Object.assign(document.createElement("span"), { textContent: ` ${word}` }),
      more = Object.assign(document.createElement("small"), {
        textContent: [v.valueText, v.limitText, v.errorText && `± ${v.errorText}`].filter(Boolean).join(" · "),
      });
    button.title = `${v.words}. ${v.basis}`;
    button.append(head, answer, more);
    button.addEventListener("click", () => {
      play(false);
      state.marked = v.parts.map((id) => data.parts.findIndex((p) => p.id === id));
      if (v.time !== null) goTo(v.time);
      else show();
    });
    $("verdicts").append(button);
  }

  // ---- everything that changes with the moment -----------------------------------------------------------------------
  function show() {
    draw();
    const x = data.duration ? (1000 * state.time) / data.duration : 0;
    for (const { line, lane, label } of cursors) {
      line.setAttribute("d", `M${x} 0V40`);
      label.textContent = `${lane.name}: ${Number(valueAt(lane.points, state.time).toPrecision(5))} ${lane.unit}`;
    }
    $("moment").textContent = data.duration
      ? `${state.time.toFixed(4)} s of ${Number(data.duration.toPrecision(6))} s`
      : "Nothing moves.";
    rows.forEach(({ seen, button }, k) => {
      seen.checked = !state.hidden.has(k);
      button.setAttribute("aria-pressed", String(k === state.chosen));
    });
    const cutting = state.axis >= 0;
    $("cut").hidden = !cutting;
    $("cut-at").textContent = cutting ? `${"xyz"[state.axis]} = ${inUnit(state.cut)}` : "";
  }
  const PER_METRE = { mm: 1e3, cm: 100, m: 1, in: 1 / 0.0254 };
  const inUnit = (m) =>
    `${(m * (PER_METRE[data.unit] || 1e3)).toFixed(2)} ${data.unit in PER_METRE ? data.unit : "mm"}`;

  // ---- hands ---------------------------------------------------------------------------------------------------------
  const fingers = new Map();
  let moved = 0;
  canvas.addEventListener("pointerdown", (event) => {
    canvas.setPointerCapture(event.pointerId);
    fingers.set(event.pointerId, event);
    moved = 0;
  });
  canvas.addEventListener("pointermove", (event) => {
    const last = fingers.get(event.pointerId);
    if (!last) return;
    const dx = event.clientX - last.clientX,
      dy = event.clientY - last.clientY;
    moved += Math.abs(dx) + Math.abs(dy);
    if (fingers.size === 2) {
      const other = [...fingers.values()].find((f) => f.pointerId !== event.pointerId),
        apart = (f) => Math.hypot(f.clientX - other.clientX, f.clientY - other.clientY);
      zoom(apart(event) / Math.max(apart(last), 1));
      shift(dx / 2, dy / 2);
    } else if (event.buttons & 2 || event.shiftKey) shift(dx, dy);
    else turn(dx * 0.008, dy * 0.008);
    fingers.set(event.pointerId, event);
    draw();
  });
  for (const end of ["pointerup", "pointercancel"])
    canvas.addEventListener(end, (event) => {
      const box = canvas.getBoundingClientRect();
      if (end === "pointerup" && moved < 5 && fingers.size === 1)
        choose(partAt(event.clientX - box.left, event.clientY - box.top));
      fingers.delete(event.pointerId);
    });
  canvas.addEventListener("contextmenu", (event) => event.preventDefault());
  canvas.addEventListener(
    "wheel",
    (event) => {
      event.preventDefault();
      zoom(Math.exp(-event.deltaY * 0.0012));
      draw();
    },
    { passive: false },
  );
  function zoom(by) {
    view.zoom = Math.min(Math.max(view.zoom * by, 0.1), 200);
  }
  function shift(dx, dy) {
    view.x += (2 * dx) / canvas.clientWidth;
    view.y -= (2 * dy) / canvas.clientHeight;
  }
  function turn(by, up) {
    view.yaw -= by;
    view.pitch = Math.min(Math.max(view.pitch + up, -1.5707), 1.5707);
  }
  function fit() {
    Object.assign(view, { zoom: 1, x: 0, y: 0, yaw: -0.63, pitch: 0.53 });
    draw();
  }
  $("play").addEventListener("click", () => play(!state.playing));
  $("back").addEventListener("click", () => goTo(state.time - step));
  $("on").addEventListener("click", () => goTo(state.time + step));
  $("fit").addEventListener("click", fit);
  $("part-only").addEventListener("click", () => showOnly(state.chosen));
  $("axis").addEventListener("change", () => {
    state.axis = $("axis").value === "" ? -1 : Number($("axis").value);
    if (state.axis >= 0) {
      const k = state.axis;
      Object.assign($("cut"), {
        min: String(low[k]),
        max: String(high[k]),
        step: String((high[k] - low[k]) / 500 || 1),
      });
      state.side = axes()[2][k] < 0 ? -1 : 1; // what lies nearer to the eye is taken away
      state.cut = middle[k];
      $("cut").value = String(state.cut);
    }
    show();
  });
  $("cut").addEventListener("input", () => {
    state.cut = Number($("cut").value);
    show();
  });
  $("picture").addEventListener("click", () => {
    draw();
    canvas.toBlob((blob) => {
      const a = Object.assign(document.createElement("a"), {
        href: URL.createObjectURL(blob),
        download: "picture.png",
      });
      a.click();
      URL.revokeObjectURL(a.href);
    });
  });
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.target.closest("select, input")) return;
    const far = event.shiftKey ? 10 : 1,
      acts = {
        " ": () => play(!state.playing),
        ArrowLeft: () => (event.altKey ? turn(0.1, 0) : goTo(state.time - far * step)),
        ArrowRight: () => (event.altKey ? turn(-0.1, 0) : goTo(state.time + far * step)),
        ArrowUp: () => event.altKey && turn(0, 0.1),
        ArrowDown: () => event.altKey && turn(0, -0.1),
        "+": () => zoom(1.2),
        "-": () => zoom(1 / 1.2),
        f: fit,
        h: () => state.chosen >= 0 && state.hidden.add(state.chosen),
        a: () => showOnly(-1),
        Escape: () => choose(-1),
      },
      act = acts[event.key.length === 1 ? event.key.toLowerCase() : event.key];
    if (!act || (event.key === " " && event.target.closest("button"))) return;
    if (event.key.startsWith("Arrow") && !event.altKey && event.key !== "ArrowLeft" && event.key !== "ArrowRight")
      return;
    event.preventDefault();
    act();
    show();
  });

  $("name").textContent = data.name;
  $("note").textContent = data.note;
  new ResizeObserver(draw).observe(canvas);
  choose(-1);
})();
