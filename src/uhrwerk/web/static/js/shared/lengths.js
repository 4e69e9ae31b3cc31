// Lengths that are typed where nothing is asked of the server.

export const PER_METRE = { mm: 1e3, cm: 100, m: 1, in: 1 / 0.0254 };

/**
 * A length in metres: a number with a unit, or without in the unit given; null where it is none.
 * @param {string} text
 * @param {string} unit
 * @returns {number | null}
 */
export function lengthOf(text, unit) {
  const parts = /^\s*([-+]?(?:\d+(?:[.,]\d*)?|[.,]\d+))\s*(mm|cm|m|in)?\s*$/.exec(text.replace("\u2212", "-"));
  return parts ? Number(parts[1].replace(",", ".")) / PER_METRE[parts[2] || unit] : null;
}
