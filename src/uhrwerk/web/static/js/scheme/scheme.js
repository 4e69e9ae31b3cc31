// The scheme: links and joints as theory sees them (symbols after ISO 3952-1), moving with the cursor.
const NS = "http://www.w3.org/2000/svg";

function el(name, attributes, parent) {
  const node = document.createElementNS(NS, name);
  for (const [k, v] of Object.entries(attributes)) node.setAttribute(k, v);
  parent?.append(node);
  return node;
}

function turned(q, v) {
  const [w, x, y, z] = q,
    tx = 2 * (y * v[2] - z * v[1]),
    ty = 2 * (z * v[0] - x * v[2]),
    tz = 2 * (x * v[1] - y * v[0]);
  return [v[0] + w * tx + y * tz - z * ty, v[1] + w * ty + z * tx - x * tz, v[2] + w * tz + x * ty - y * tx];
}

// which way a driven joint goes first
function arrow(n, x, y) {
  const way = n.sense > 0 ? -1 : 1;
  if (n.symbol === "box") return `M${x - 9 * way} ${y - 9}h${18 * way}m0 0l${-4 * way} -3m${4 * way} 3l${-4 * way} 3`;
  return `M${x - 9 * way} ${y - 5}a10 10 0 0 ${way > 0 ? 1 : 0} ${17 * way} -1m0 0l${-1.5 * way} -5m${1.5 * way} 5l${-5 * way} -.5`;
}

// the corners of what a rim passes through as it turns
function turning(centre, rim) {
  const r = Math.max(...rim.map((p) => Math.hypot(p[0] - centre[0], p[1] - centre[1])));
  return [-r, r].map((d) => [centre[0] + d, centre[1] + d]);
}

// both wheels of each belt
function belts(wheels) {
  const pairs = new Map();
  for (const w of wheels.filter((w) => w.belt)) pairs.set(w.pair, [...(pairs.get(w.pair) || []), w]);
  return [...pairs.values()].filter((p) => p.length === 2);
}

export function drawScheme(svg, view, poseOf, selected, failing, onselect) {
  svg.replaceChildren();
  const { nodes, links, gears, cams, u, v } = view.scheme;
  if (!nodes.length) {
    el("text", { x: 104, y: 70, "text-anchor": "middle", fill: "#57645e", "font-size": 12 }, svg).textContent =
      "Joints appear here.";
    return;
  }
  const flat = (p) => [p[0] * u[0] + p[1] * u[1] + p[2] * u[2], p[0] * v[0] + p[1] * v[1] + p[2] * v[2]];
  const world = (placed, local) => {
    const p = poseOf(placed),
      r = turned(p.slice(3), local);
    return [p[0] + r[0], p[1] + r[1], p[2] + r[2]];
  };
  const at = new Map(nodes.map((n) => [n.id, flat(world(n.placed, n.local))]));
  const wheels = gears.map((g) => ({ ...g, at: flat(world(g.placed, [0, 0, 0])) }));
  const rims = cams.map((c) => ({
    ...c,
    rim: c.outline.map((p) => flat(world(c.placed, p))),
    at: flat(world(c.follower, c.local)),
  }));
  // the frame of the drawing stays put while the mechanism moves: it is taken from the first drawing of this revision
  const points = [
    ...at.values(),
    ...rims.flatMap((c) => [...turning(flat(world(c.placed, [0, 0, 0])), c.rim), c.at]),
    ...wheels.flatMap((g) => [
      [g.at[0] - g.radius, g.at[1] - g.radius],
      [g.at[0] + g.radius, g.at[1] + g.radius],
    ]),
  ];
  const xs = points.map((p) => p[0]),
    ys = points.map((p) => p[1]);
  if (svg.box?.view !== view)
    svg.box = { view, x0: Math.min(...xs), x1: Math.max(...xs), y0: Math.min(...ys), y1: Math.max(...ys) };
  const { x0, x1, y0, y1 } = svg.box,
    s = Math.min(160 / Math.max(1e-6, x1 - x0), 96 / Math.max(1e-6, y1 - y0));
  const cx = (x0 + x1) / 2,
    cy = (y0 + y1) / 2;
  const to = (p) => [104 + (p[0] - cx) * s, 66 - (p[1] - cy) * s];

  const pick = (node, path) => {
    node.setAttribute("data-path", path);
    node.addEventListener("click", () => onselect(path));
    return node;
  };
  for (const g of wheels) {
    const [x, y] = to(g.at);
    pick(
      el(
        "circle",
        {
          cx: x,
          cy: y,
          r: g.radius * s,
          fill: "none",
          stroke: selected === `pairs.${g.pair}` ? "#a8741a" : "#22302f",
          "stroke-width": 1.2,
          "stroke-dasharray": "6 2 1.5 2",
        },
        svg,
      ),
      `pairs.${g.pair}`,
    );
  }
  for (const [a, b] of belts(wheels)) {
    const [p, q] = [to(a.at), to(b.at)],
      way = Math.hypot(q[0] - p[0], q[1] - p[1]),
      other = a.belt === "crossed" ? -b.radius : b.radius;
    if (way <= Math.abs(a.radius - other) * s) continue;
    const along = Math.atan2(q[1] - p[1], q[0] - p[0]),
      lean = Math.acos(((a.radius - other) * s) / way);
    for (const side of [1, -1]) {
      const [c, d] = [Math.cos(along + side * lean) * s, Math.sin(along + side * lean) * s];
      el(
        "path",
        {
          d: `M${p[0] + a.radius * c} ${p[1] + a.radius * d}L${q[0] + other * c} ${q[1] + other * d}`,
          stroke: "#22302f",
        },
        svg,
      );
    }
  }
  for (const c of rims) {
    const stroke = selected === `pairs.${c.pair}` ? "#a8741a" : "#22302f",
      d = `M${c.rim.map((p) => to(p).join(" ")).join("L")}Z`,
      [x, y] = to(c.at);
    pick(
      el("path", { d, fill: "none", stroke, "stroke-width": 1.2, "stroke-dasharray": "6 2 1.5 2" }, svg),
      `pairs.${c.pair}`,
    );
    if (c.guide)
      el("path", { d: `M${to(at.get(c.guide)).join(" ")}L${x} ${y}`, stroke: "#22302f", "stroke-width": 1.8 }, svg);
    el("circle", { cx: x, cy: y, r: Math.max(2, c.radius * s), fill: "#fbf8f0", stroke, "stroke-width": 1.2 }, svg);
  }
  for (const link of links) {
    const ends = link.nodes.map((id) => to(at.get(id)));
    const chosen = link.parts.some((p) => selected === `placed.${p}`),
      bad = link.parts.some((p) => failing.includes(p));
    if (link.index === 0) {
      for (const [x, y] of ends) {
        el(
          "path",
          {
            d: `M${x} ${y}l-7 11h14z M${x - 11} ${y + 11}h22 m-19 0l-4 5 m10 -5l-4 5 m10 -5l-4 5 m10 -5l-4 5`,
            fill: "none",
            stroke: chosen ? "#a8741a" : bad ? "#b5341c" : "#22302f",
            "stroke-width": 1,
          },
          svg,
        );
      }
      continue;
    }
    if (ends.length < 2) continue;
    const d = ends.length === 2 ? `M${ends[0]}L${ends[1]}` : `M${ends.map((p) => p.join(" ")).join("L")}Z`;
    pick(
      el(
        "path",
        {
          d,
          fill: ends.length > 2 ? "#22302f14" : "none",
          stroke: bad ? "#b5341c" : chosen ? "#a8741a" : "#22302f",
          "stroke-width": bad || chosen ? 3 : 1.8,
        },
        svg,
      ),
      `placed.${link.parts[0]}`,
    );
  }
  for (const n of nodes) {
    const [x, y] = to(at.get(n.id)),
      on = selected === n.path;
    const symbol =
      n.symbol === "box"
        ? el("rect", { x: x - 7, y: y - 4, width: 14, height: 8 }, svg)
        : el("circle", { cx: x, cy: y, r: 3.6 }, svg);
    for (const [k, w] of Object.entries({
      fill: on ? "#f3e3bf" : "#fbf8f0",
      stroke: on ? "#a8741a" : "#22302f",
      "stroke-width": on ? 2.4 : 1.5,
    }))
      symbol.setAttribute(k, w);
    el("title", {}, pick(symbol, n.path)).textContent = n.name;
    if (n.driven)
      el(
        "path",
        {
          d: arrow(n, x, y),
          fill: "none",
          stroke: "#a8741a",
          "stroke-width": 1.6,
        },
        svg,
      );
  }
}
