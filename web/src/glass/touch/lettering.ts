// What is to be done, written on the ground under the path: nothing that is to be drawn, or that has to be seen for it, is ever covered.

export interface Line {
  text: string;
  y: number;
}

/** Words broken into lines no wider than `width`; `measure` gives the width of a text. */
export function broken(words: string, width: number, measure: (text: string) => number): string[] {
  const lines: string[] = [];
  for (const word of words.split(" ").filter(Boolean)) {
    const last = lines[lines.length - 1];
    if (last !== undefined && measure(`${last} ${word}`) <= width) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  return lines;
}

/** Lines in the gaps between rows of cells, where no row of the path runs: the first one about `from` down the screen. */
export function between(lines: readonly string[], top: number, cell: number, height: number, from: number): Line[] {
  const first = Math.max(1, Math.round((from * height - top) / cell));
  return lines.map((text, n) => ({ text, y: top + (first + n) * cell }));
}
