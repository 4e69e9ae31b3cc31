// A row or table that is pasted into a field: its cells go into the fields that follow, row by row where there are several of a kind.

// the cells of a text, by rows: columns apart by tabs or semicolons
export function cells(text) {
  const rows = text.replace(/\s+$/, "").split(/\r?\n/);
  return rows.map((row) => row.split(/[\t;]/).map((cell) => cell.trim()));
}

const writable = (f) => f.kind === "formula" || f.kind === "text";

// what each cell sets, from the field `path` on: {sets: [{row, path, text, fresh}], over: cells without a field}; an empty cell sets
// nothing. `row` is the heading's path below which it lies, and `fresh` that there is no such row yet
export function spread(fields, path, table) {
  const at = fields.findIndex((f) => f.path === path),
    heading = fields.slice(0, at).findLast((f) => f.kind === "heading" && path.startsWith(`${f.path}.`));
  const out = { sets: [], over: 0 };
  const put = (row, target, text, fresh) => {
    if (target === undefined) out.over += text ? 1 : 0;
    else if (text) out.sets.push({ row, path: target, text, fresh });
  };
  if (!heading) {
    const open = fields.slice(at).filter(writable);
    for (const [k, text] of table.flat().entries()) put("", open[k]?.path, text, false);
    return out;
  }
  const map = heading.path.slice(0, heading.path.lastIndexOf(".")),
    one = map.split(".").at(-1).slice(0, -1),
    there = fields.filter((f) => f.kind === "heading" && f.path.slice(0, f.path.lastIndexOf(".")) === map),
    taken = new Set(there.map((f) => f.path)),
    names = fields
      .filter((f) => writable(f) && f.path.startsWith(`${heading.path}.`))
      .map((f) => f.path.slice(heading.path.length + 1)),
    first = there.findIndex((f) => f.path === heading.path),
    column = names.indexOf(path.slice(heading.path.length + 1));
  let n = 1;
  table.forEach((row, r) => {
    const known = there[first + r]?.path;
    while (!known && taken.has(`${map}.${one}_${n}`)) n++;
    const own = known || `${map}.${one}_${n}`;
    taken.add(own);
    row.forEach((text, c) => {
      const name = names[column + c];
      put(own, name === undefined ? undefined : `${own}.${name}`, text, !known);
    });
  });
  return out;
}
