// What the pane can show under its marks: light, tint, mura, and how small a fault would have been seen.

import { Box, ButtonBase, Typography } from "@mui/material";
import { ContourLayer } from "../../pane/ContourLayer";
import { FigureLayer } from "../../pane/FigureLayer";
import { CELL_COLUMNS } from "../../pane/geometry";
import { wordOf } from "../../pane/marks";
import { ProfilePlot } from "../../pane/ProfilePlot";
import type { Inspection, Job } from "../api/client";

export type Layer = "faults" | "light" | "tint" | "mura" | "seen" | "touch";
type Smallest = NonNullable<Inspection["smallest"]>[number];
const TITLES: Record<Layer, string> = {
  faults: "Faults",
  light: "Light",
  tint: "Tint",
  mura: "Mura",
  seen: "Seen",
  touch: "Touch",
};
const LIGHT_STEPS = [0.02, 0.05, 0.1];
const MURA_STEPS = [0.5, 1, 2, 5, 10];
const TINT_STEPS = [0.002, 0.004, 0.01, 0.02];

const lightGrid = (result: Inspection) =>
  result.light_map
    ? { columns: result.light_map.columns, rows: result.light_map.rows, values: result.light_map.light }
    : null;
const mapped = (result: Inspection): Smallest[] => (result.smallest ?? []).filter((one) => one.map);

/** The layers that this inspection has something for, with their titles. */
export function layersOf(result: Inspection | null, touched: boolean): [Layer, string][] {
  const has: Record<Layer, boolean> = {
    faults: true,
    light: Boolean(result?.light_map),
    tint: Boolean(result?.tint_map),
    mura: Boolean(result?.mura_map),
    seen: Boolean(result && mapped(result).length),
    touch: touched,
  };
  return (Object.keys(TITLES) as Layer[]).filter((layer) => has[layer]).map((layer) => [layer, TITLES[layer]]);
}

const worded = (one: Smallest): string =>
  `${wordOf(one.kind)}${one.channel ? `, ${one.channel}` : ""}${one.orientation ? `, whole ${one.orientation}` : ""}${one.area_mm2 ? `, ${one.area_mm2} mm²` : ""}`;

export function LayerDrawing({
  layer,
  job,
  result,
  kind,
}: {
  layer: Layer;
  job: Job;
  result: Inspection;
  kind: number;
}) {
  const panel = { width: job.panel_width, height: job.panel_height };
  const light = lightGrid(result);
  const seen = mapped(result)[kind]?.map;
  if (layer === "light" && light)
    return (
      <ContourLayer
        label="Light field"
        panel={panel}
        grid={light}
        steps={LIGHT_STEPS}
        strong={1}
        points={result.uniformity?.points}
        figure={(level) => String(Math.round(level * 100))}
      />
    );
  if (layer === "mura" && result.mura_map)
    return (
      <ContourLayer
        label="Mura"
        panel={panel}
        grid={result.mura_map}
        steps={MURA_STEPS}
        strong={0}
        figure={(level) => `${level > 0 ? "+" : ""}${level}`}
      />
    );
  if (layer === "tint" && result.tint_map)
    return (
      <ContourLayer
        label="Tint"
        panel={panel}
        grid={result.tint_map}
        steps={TINT_STEPS}
        figure={(level) => String(Math.round(level * 1000))}
      />
    );
  if (layer === "seen" && seen)
    return (
      <FigureLayer
        label="Smallest fault seen"
        panel={panel}
        grid={seen}
        figure={(value) => (value > 1 ? "none" : String(Math.max(1, Math.round(100 * value))))}
      />
    );
  return null;
}

function told(one: Smallest, value: number): string {
  if (one.unit === "contrast") return `${(100 * value).toFixed(1)} % contrast`;
  return value > 1 ? "not even a full one" : `${Math.max(1, Math.round(100 * value))} % of a full one`;
}

function SeenTable({ result, kind, onKind }: { result: Inspection; kind: number; onKind: (kind: number) => void }) {
  const drawn = mapped(result);
  return (
    <Box
      component="table"
      sx={{
        borderCollapse: "collapse",
        width: "100%",
        mt: 1,
        "& th, & td": { textAlign: "left", py: 0.25, pr: 1.5, typography: "body2", fontVariantNumeric: "tabular-nums" },
        "& th": { color: "text.secondary", fontWeight: 400 },
      }}
    >
      <caption>
        <Typography variant="body2" color="textSecondary" align="left">
          Smallest fault that would have been found, 19 times of 20. Figures on the pane: percent of a full fault.
        </Typography>
      </caption>
      <thead>
        <tr>
          <th scope="col">Kind</th>
          <th scope="col">On half of the panel</th>
          <th scope="col">Worst twentieth</th>
          <th scope="col">Proven</th>
        </tr>
      </thead>
      <tbody>
        {(result.smallest ?? []).map((one) => {
          const at = drawn.indexOf(one);
          const name = worded(one);
          return (
            <tr key={name}>
              <td>
                {at < 0 ? (
                  name
                ) : (
                  <ButtonBase
                    aria-pressed={at === kind}
                    onClick={() => {
                      onKind(at);
                    }}
                    sx={{
                      typography: "body2",
                      minHeight: 28,
                      textAlign: "left",
                      textDecoration: at === kind ? "underline" : "none",
                      fontWeight: at === kind ? 600 : 400,
                    }}
                  >
                    {name}
                  </ButtonBase>
                )}
              </td>
              <td>{told(one, one.median)}</td>
              <td>{told(one, one.worst)}</td>
              <Box component="td" sx={{ whiteSpace: "nowrap" }}>
                {(100 * one.proven).toFixed(1)} %
              </Box>
            </tr>
          );
        })}
      </tbody>
    </Box>
  );
}

/** What belongs under the pane: how to read the layer, and what it says in figures. ``at`` is the place that is looked at. */
export function LayerNotes({
  layer,
  job,
  result,
  at,
  kind,
  onKind,
}: {
  layer: Layer;
  job: Job;
  result: Inspection;
  at?: { x: number; y: number };
  kind: number;
  onKind: (kind: number) => void;
}) {
  const light = lightGrid(result);
  if (layer === "seen") return <SeenTable result={result} kind={kind} onKind={onKind} />;
  if (layer === "tint")
    return (
      <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
        Lines: distance of the colour from its surroundings, in thousandths of u&apos;v&apos;. Four are just seen side
        by side (common practice).
      </Typography>
    );
  if (layer === "mura")
    return (
      <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
        Lines: percent brighter (+) or darker than a smooth light over the panel.
      </Typography>
    );
  if (layer !== "light" || !light) return null;
  const row = Math.min(light.rows - 1, Math.floor(((at?.y ?? job.panel_height / 2) / job.panel_height) * light.rows));
  const column = Math.min(
    CELL_COLUMNS - 1,
    Math.floor(((at?.x ?? job.panel_width / 2) / job.panel_width) * CELL_COLUMNS),
  );
  return (
    <Box sx={{ mt: 1 }}>
      <Typography variant="body2" color="textSecondary">
        Lines: light in percent of its median, lens fall-off taken off. Large figures: the nine points, in percent of
        the brightest.
      </Typography>
      <ProfilePlot
        grid={light}
        along="row"
        index={row}
        label={at ? `along row ${Math.round(at.y)}` : "along the middle row"}
      />
      <ProfilePlot
        grid={light}
        along="column"
        index={column}
        label={at ? `along column ${Math.round(at.x)}` : "along the middle column"}
      />
    </Box>
  );
}
