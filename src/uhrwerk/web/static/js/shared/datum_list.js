// Datums as they are listed: by what they are, then by name, `bore 2` before `bore 10`.

const GROUPS = [
  "Bores, pins and axes",
  "Faces",
  "Slots and places",
  "Edges",
  "Corners",
  "Fillets and roundings",
  "Origin and base planes",
];

/**
 * @template {{group: string, name: string}} D
 * @param {D[]} datums
 * @returns {D[]}
 */
export const sorted = (datums) =>
  [...datums].sort(
    (a, b) =>
      GROUPS.indexOf(a.group) - GROUPS.indexOf(b.group) || a.name.localeCompare(b.name, "en", { numeric: true }),
  );
