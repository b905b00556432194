// The order of a procedure as a drawing: each step in the column after everything that must come before it.

/** A step as far as its place in the order goes. `when`: the choices that make it apply, by the step where they are made. */
export interface GraphStep {
  id: string;
  title: string;
  needs?: readonly string[];
  when?: Record<string, readonly string[]>;
}
export interface GraphEntry {
  step: GraphStep;
  state: string;
}
export interface Placed {
  entry: GraphEntry;
  column: number;
  row: number;
}
export interface Line {
  from: Placed;
  to: Placed;
}

/** Columns by the longest way to a step, rows in the order of the file; lines leave out what another line already says. */
export function layOut(steps: readonly GraphEntry[]): {
  placed: Placed[];
  lines: Line[];
  columns: number;
  rows: number;
} {
  const known = new Map(steps.map((entry) => [entry.step.id, entry]));
  const before = (entry: GraphEntry): string[] =>
    [...(entry.step.needs ?? []), ...Object.keys(entry.step.when ?? {})].filter((id) => known.has(id));
  const column = new Map<string, number>();
  const columnOf = (entry: GraphEntry): number => {
    const had = column.get(entry.step.id);
    if (had !== undefined) return had;
    column.set(entry.step.id, 0); // a circle would end here; procedures have none
    const at = before(entry).reduce((most, id) => {
      const other = known.get(id);
      return other ? Math.max(most, columnOf(other) + 1) : most;
    }, 0);
    column.set(entry.step.id, at);
    return at;
  };
  const taken = new Map<number, number>();
  const placed = steps.map((entry) => {
    const at = columnOf(entry);
    const row = taken.get(at) ?? 0;
    taken.set(at, row + 1);
    return { entry, column: at, row };
  });
  const byId = new Map(placed.map((one) => [one.entry.step.id, one]));
  const reaches = (from: string, to: string, seen = new Set<string>()): boolean => {
    const entry = known.get(to);
    if (!entry || seen.has(to)) return false;
    seen.add(to);
    return before(entry).some((id) => id === from || reaches(from, id, seen));
  };
  const lines = placed.flatMap((to) => {
    const ids = [...new Set(before(to.entry))];
    return ids
      .filter((id) => !ids.some((other) => other !== id && reaches(id, other)))
      .flatMap((id) => {
        const from = byId.get(id);
        return from ? [{ from, to }] : [];
      });
  });
  return {
    placed,
    lines,
    columns: Math.max(0, ...placed.map((one) => one.column)) + 1,
    rows: Math.max(0, ...taken.values()),
  };
}
