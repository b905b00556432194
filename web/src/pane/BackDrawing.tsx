// A panel seen from the back, drawn of what is known of it: outline, plug, how it is held. What is not known is said, not drawn.

import { plugBox, type Side } from "./drawings";

export interface BackSpec {
  outline_mm?: readonly number[] | null;
  width?: number | null;
  height?: number | null;
  mounting?: "side_brackets" | "ears" | "adhesive" | "bonded" | null;
  connector_side?: Side | null;
  connector_edge?: "top" | "bottom" | null;
  connector_pins?: number | null;
}
const WIDE = 400;
const ROOM = 26;

function Mounting({ box, kind }: { box: { x: number; y: number; width: number; height: number }; kind: string }) {
  const [right, bottom] = [box.x + box.width, box.y + box.height];
  if (kind === "side_brackets")
    return (
      <g data-mounting="side_brackets">
        {[box.x - 12, right + 2].map((x) => (
          <g key={x}>
            <rect x={x} y={box.y + 8} width={10} height={box.height - 16} fill="none" stroke="currentColor" />
            {[0.2, 0.5, 0.8].map((share) => (
              <circle key={share} cx={x + 5} cy={box.y + box.height * share} r={3} fill="currentColor" />
            ))}
          </g>
        ))}
      </g>
    );
  if (kind === "ears")
    return (
      <g data-mounting="ears">
        {[box.x + box.width * 0.06, right - box.width * 0.06 - 24].flatMap((x) =>
          [box.y - 14, bottom].map((y) => (
            <g key={`${x} ${y}`}>
              <rect x={x} y={y} width={24} height={14} fill="none" stroke="currentColor" />
              <circle cx={x + 12} cy={y + 7} r={3} fill="currentColor" />
            </g>
          )),
        )}
      </g>
    );
  const inset = kind === "bonded" ? 6 : 12;
  return (
    <rect
      data-mounting={kind}
      x={box.x + inset}
      y={box.y + inset}
      width={box.width - 2 * inset}
      height={box.height - 2 * inset}
      fill="none"
      stroke="currentColor"
      strokeDasharray={kind === "adhesive" ? "10 6" : undefined}
    />
  );
}

const MOUNTED = {
  side_brackets: "side brackets",
  ears: "mounting tabs",
  adhesive: "held by adhesive",
  bonded: "bonded assembly",
} as const;

/** What the drawing shows, in words: for those who cannot see it, and as its legend. */
export function backWords(spec: BackSpec): string {
  const plug = spec.connector_side
    ? `plug at the ${spec.connector_edge ?? "edge"}${spec.connector_edge ? "," : ""} ${spec.connector_side}`
    : "side of the plug not known";
  const pins = spec.connector_pins ? `${spec.connector_pins} pins` : "pins not counted";
  return `From the back: ${plug}, ${pins}; ${spec.mounting ? MOUNTED[spec.mounting] : "mounting not known"}.`;
}

export function BackDrawing({ spec, maxWidth = 220 }: { spec: BackSpec; maxWidth?: number }) {
  const [w = 16, h = 9] = spec.outline_mm ?? [spec.width ?? 16, spec.height ?? 9];
  const tall = Math.min(WIDE * (h / w), 2.2 * WIDE);
  const box = { x: ROOM, y: ROOM, width: WIDE, height: tall };
  const plug = spec.connector_side ? plugBox(box, spec.connector_side, spec.connector_edge ?? "bottom", "back") : null;
  return (
    <svg
      viewBox={`0 0 ${WIDE + 2 * ROOM} ${tall + 2 * ROOM}`}
      role="img"
      aria-label={backWords(spec)}
      style={{ width: "100%", maxWidth, maxHeight: 200, display: "block" }}
    >
      <rect {...box} fill="none" stroke="currentColor" strokeWidth={2} />
      {spec.mounting && <Mounting box={box} kind={spec.mounting} />}
      {plug && (
        <>
          <rect {...plug} fill="currentColor" />
          {spec.connector_pins && (
            <text
              x={plug.x + plug.width / 2}
              y={(spec.connector_edge ?? "bottom") === "bottom" ? plug.y - 10 : plug.y + plug.height + 28}
              textAnchor="middle"
              fontSize={24}
              fill="currentColor"
            >
              {spec.connector_pins}
            </text>
          )}
        </>
      )}
    </svg>
  );
}
