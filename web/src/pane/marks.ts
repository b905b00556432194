// One shape a kind of finding. Dark things are filled, bright ones are outlined, what is not of the panel is a cross.

export interface Mark {
  path: string;
  filled: boolean;
  word: string;
  dashed?: boolean;
  area?: Area;
}
/** How an extended finding fills its box: dark ones are shaded, bright ones lightened, faint ones only outlined. */
export interface Area {
  fill: string;
  opacity: number;
  dash?: string;
}

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
  dark_zone: {
    path: "M-14 8C-14 -12 14 -12 14 8z",
    filled: true,
    word: "dark zone",
    area: { fill: "#000", opacity: 0.5 },
  },
  bright_zone: {
    path: "M-14 8C-14 -12 14 -12 14 8z",
    filled: false,
    word: "bright zone",
    area: { fill: "#fff", opacity: 0.25 },
  },
  bleed: {
    path: "M12 -12V12L-12 -12z",
    filled: false,
    word: "bleed",
    area: { fill: "#fff", opacity: 0.15, dash: "12 6" },
  },
  mura: {
    path: "M-14 0C-9 -9 -5 -9 0 0S9 9 14 0",
    filled: false,
    word: "mura",
    area: { fill: "none", opacity: 0, dash: "7 7" },
  },
  discoloration: {
    path: "M-12 5a2.5 2.5 0 1 0 .1 0M0 -9a2.5 2.5 0 1 0 .1 0M12 5a2.5 2.5 0 1 0 .1 0",
    filled: false,
    word: "tint",
    area: { fill: "none", opacity: 0, dash: "2 7" },
  },
  crack: {
    path: "M-13 -11L-3 -3L-6 3L13 11M-3 -3L7 -11M-6 3L-12 9",
    filled: false,
    word: "crack",
    area: { fill: "#000", opacity: 0.2, dash: "16 5 4 5" },
  },
  artifact: {
    path: "M-13 -8H3V8H-13zM-3 -8V-12H13V4H3",
    filled: false,
    word: "wrong picture",
    area: { fill: "none", opacity: 0, dash: "20 10" },
  },
  flicker: {
    path: "M-13 -8H13M-13 0H13M-13 8H13",
    filled: false,
    word: "flicker",
    area: { fill: "none", opacity: 0, dash: "2 14" },
  },
  retained_image: {
    path: "M-13 -9H5V6H-13zM-7 6V11H13V-4H5",
    filled: false,
    word: "retained image",
    dashed: true,
    area: { fill: "none", opacity: 0, dash: "14 4 2 4" },
  },
  no_light: {
    path: `${ring(11)}M-13 13L13 -13`,
    filled: true,
    word: "no light",
    area: { fill: "#000", opacity: 0.6, dash: "24 8" },
  },
  dim: {
    path: `${ring(11)}M0 -11V11`,
    filled: false,
    word: "dim panel",
    area: { fill: "#000", opacity: 0.15, dash: "1 12" },
  },
  dust: { path: cross(7), filled: false, word: "dust" },
  camera: { path: cross(7) + ring(10), filled: false, word: "camera defect" },
  scratch: { path: cross(7) + "M-12 0H12", filled: false, word: "scratch" },
  film: { path: cross(7) + square(11), filled: false, word: "film bubble" },
  reflection: { path: cross(7) + diamond(13), filled: false, word: "reflection" },
};

/** The mark of a kind; kinds without a shape of their own are areas. */
export const markOf = (kind: string): Mark =>
  MARKS[kind] ?? { path: square(10), filled: false, word: kind.replace(/_/g, " "), dashed: true };
export const MARK_KINDS = Object.keys(MARKS);
const SOLID: Area = { fill: "#000", opacity: 0.75 };
export const areaOf = (kind: string, bright: boolean): Area =>
  markOf(kind).area ?? (bright ? { fill: "#fff", opacity: 0.6 } : SOLID);
export const isExtended = (kind: string): boolean =>
  ![
    "dead_pixel",
    "dark_subpixel",
    "bright_pixel",
    "bright_subpixel",
    "cluster",
    "dust",
    "camera",
    "scratch",
    "film",
    "reflection",
  ].includes(kind);
