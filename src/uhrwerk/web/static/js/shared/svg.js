// Elements of drawings (SVG).
const NS = "http://www.w3.org/2000/svg";

export function el(name, attributes, parent, words) {
  const node = document.createElementNS(NS, name);
  for (const [k, v] of Object.entries(attributes)) node.setAttribute(k, v);
  if (words !== undefined) node.textContent = words;
  parent?.append(node);
  return node;
}
