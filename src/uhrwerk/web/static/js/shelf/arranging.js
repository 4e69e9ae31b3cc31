// Which mechanisms of the shelf are shown, and in which order.

const ORDERS = {
  changed: (a, b) => Number(b.changed) - Number(a.changed),
  name: (a, b) => a.name.localeCompare(b.name, "en", { numeric: true }),
  failing: (a, b) => Number(b.failing) - Number(a.failing) || ORDERS.name(a, b),
};

/**
 * Rows whose name holds every word that is searched, sorted.
 * @template {{name?: string, changed?: string, failing?: string}} R
 * @param {R[]} rows
 * @param {string} search
 * @param {string} sort changed, name or failing
 * @returns {R[]}
 */
export function arranged(rows, search, sort) {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  return rows.filter((r) => words.every((w) => r.name.toLowerCase().includes(w))).sort(ORDERS[sort]);
}
