// One shape a kind of finding. Dark things are filled, bright ones are outlined, what is not of the panel is a cross.

export interface Mark { path: string; filled: boolean; word: string; dashed?: boolean }

const square = (r: number) => `M${-r} ${-r}h${2 * r}v${2 * r}h${-2 * r}z`;
const diamond = (r: number) => `M0 ${-r}L${r} 0L0 ${r}L${-r} 0z`;
const cross = (r: number) => `M${-r} ${-r}L${r} ${r}M${r} ${-r}L${-r} ${r}`;
const ring = (r: number) => `M${-r} 0a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;

const MARKS: Record<string, Mark> = {
  dead_pixel: { path: square(9), filled: true, word: "dead pixel" },
  dark_subpixel: { path: "M-9 7L0 -8L9 7z", filled: true, word: "dark subpixel" },
  bright_pixel: { path: diamond(12), filled: false, word: "bright pixel" },
  bright_subpixel: { path: "M-9 -7L0 8L9 -7z", filled: false, word: "bright subpixel" },
  cluster: { path: ring(20), filled: false, word: "cluster", dashed: true },
  line: { path: "M-12 0H12", filled: false, word: "line" },
  band: { path: "M-12 -4H12V4H-12z", filled: false, word: "band" },
  dust: { path: cross(7), filled: false, word: "dust" },
  camera: { path: cross(7) + ring(10), filled: false, word: "camera defect" },
};

/** The mark of a kind; kinds without a shape of their own are areas. */
export const markOf = (kind: string): Mark => MARKS[kind] ?? { path: square(10), filled: false, word: kind.replace(/_/g, " "), dashed: true };
export const MARK_KINDS = Object.keys(MARKS);
export const isExtended = (kind: string): boolean => !["dead_pixel", "dark_subpixel", "bright_pixel", "bright_subpixel", "cluster", "dust", "camera"].includes(kind);
