// Light along one row or column of the panel, as a small plot with its own scale.

import { profile, type Grid } from "./contours";

const WIDTH = 480;
const HEIGHT = 90;

export function ProfilePlot({
  grid,
  along,
  index,
  label,
}: {
  grid: Grid;
  along: "row" | "column";
  index: number;
  label: string;
}) {
  const values = profile(grid, along, index);
  const low = Math.min(...values, 0.9);
  const high = Math.max(...values, 1.1);
  const x = (n: number) => 40 + (n * (WIDTH - 48)) / Math.max(values.length - 1, 1);
  const y = (value: number) => 8 + ((high - value) * (HEIGHT - 24)) / (high - low);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`${label}: from ${Math.round(100 * Math.min(...values))} to ${Math.round(100 * Math.max(...values))} percent of the median`}
      style={{ width: "100%", maxWidth: WIDTH, display: "block" }}
    >
      <path d={`M40 ${y(1)}H${WIDTH - 8}`} stroke="currentColor" opacity="0.4" strokeDasharray="4 4" />
      <path
        d={values.map((value, n) => `${n ? "L" : "M"}${x(n).toFixed(1)} ${y(value).toFixed(1)}`).join("")}
        fill="none"
        stroke="currentColor"
        strokeWidth="2"
      />
      {[low, 1, high].map((value) => (
        <text key={value} x="34" y={y(value) + 4} fontSize="11" textAnchor="end" fill="currentColor">
          {Math.round(100 * value)}
        </text>
      ))}
      <text x={WIDTH - 8} y={HEIGHT - 2} fontSize="11" textAnchor="end" fill="currentColor">
        {label}
      </text>
    </svg>
  );
}
