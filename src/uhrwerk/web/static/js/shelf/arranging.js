// Which mechanisms of the shelf are shown, and in which order.

const ORDERS = {
  changed: (a, b) => Number(b.changed) - Number(a.changed),
  name: (a, b) => a.name.localeCompare(b.name, "en", { numeric: true }),
  failing: (a, b) => Number(b.failing) - Number(a.failing) || ORDERS.name(a, b),
};

/**
 * Rows whose name or folder holds every word that is searched, sorted.
 * @template {{name?: string, folder?: string, changed?: string, failing?: string}} R
 * @param {R[]} rows
 * @param {string} search
 * @param {string} sort changed, name or failing
 * @param {string} [folder] in which they lie; left out: in any or none
 * @returns {R[]}
 */
export function arranged(rows, search, sort, folder = "") {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const holds = (r) => words.every((w) => `${r.name} ${r.folder || ""}`.toLowerCase().includes(w));
  return rows.filter((r) => (!folder || r.folder === folder) && holds(r)).sort(ORDERS[sort]);
}
