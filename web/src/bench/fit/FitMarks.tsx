// Marks on the drawing of the device: screws by group, and where its adhesive runs.

import type { FitState } from "../api/client";
import type { Spot } from "./placing";
import type { SurfaceBox } from "./TapSurface";

const SCREW_PX = 8;
type Groups = FitState["fasteners"];

export type DeviceBox = SurfaceBox;

export function Screws({
  device,
  groups,
  now,
  px,
  drawn,
}: {
  device: DeviceBox;
  groups: Groups;
  /** Places that are being tapped just now, before they are stored. */
  drawn: Readonly<Record<string, Spot[]>>;
  now: readonly string[];
  px: number;
}) {
  return (
    <>
      {Object.entries(groups).map(([id, group], number) =>
        (drawn[id] ?? group.spots).map(({ x, y, hole }, at) => {
          const [cx, cy] = [device.x + x * device.width, device.y + y * device.height];
          const active = now.includes(id);
          return (
            <g key={`${id} ${at}`} data-group={id} opacity={active || now.length === 0 ? 1 : 0.45}>
              <circle
                cx={cx}
                cy={cy}
                r={SCREW_PX * px}
                fill={active ? "currentColor" : "none"}
                stroke="currentColor"
                strokeWidth={1.4 * px}
                strokeDasharray={hole ? `${2.5 * px} ${2 * px}` : undefined}
              />
              <text
                x={cx}
                y={cy + 4 * px}
                textAnchor="middle"
                fontSize={11 * px}
                fill={active ? "var(--drawing-ground)" : "currentColor"}
              >
                {hole ? { inner: "i", outer: "o" }[hole] : String.fromCharCode(65 + number)}
              </text>
            </g>
          );
        }),
      )}
    </>
  );
}

/** Where the adhesive runs that holds it now, as it was noted. */
export function AdhesiveLines({ state, device, px }: { state: FitState; device: DeviceBox; px: number }) {
  const noted = state.steps.flatMap((entry) => (entry.notes.adhesive ? [entry.notes.adhesive] : [])).at(-1);
  const { x, y, width, height } = device;
  const inset = 11;
  const lines: Record<string, string> = {
    top: `M${x + inset} ${y + inset}H${x + width - inset}`,
    bottom: `M${x + inset} ${y + height - inset}H${x + width - inset}`,
    left: `M${x + inset} ${y + inset}V${y + height - inset}`,
    right: `M${x + width - inset} ${y + inset}V${y + height - inset}`,
    under: `M${x + 0.3 * width} ${y + 0.2 * height}V${y + 0.8 * height}M${x + 0.7 * width} ${y + 0.2 * height}V${y + 0.8 * height}`,
  };
  return (
    <>
      {(noted?.where ?? []).map((edge) => (
        <path
          key={edge}
          d={lines[edge]}
          stroke="currentColor"
          strokeWidth={5 * px}
          strokeDasharray={`${1.5 * px} ${3 * px}`}
          opacity={0.8}
        >
          <title>Adhesive, {noted?.kind.replaceAll("_", " ")}</title>
        </path>
      ))}
    </>
  );
}
