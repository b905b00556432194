// What each setting of the brightness control gives, as a share of the brightest; a comb over a step where the light pulses.

export interface BrightnessPoint {
  percent: number;
  light: number | null;
  bars: boolean;
}

const WIDTH = 300;
const HEIGHT = 150;
const LEFT = 38;
const BOTTOM = 22;
const TOP = 16;
const x = (percent: number) => LEFT + 8 + (percent / 100) * (WIDTH - LEFT - 28);
const y = (light: number) => TOP + (1 - Math.min(light, 1)) * (HEIGHT - BOTTOM - TOP);

export function BrightnessPlot({ steps, uncertainty }: { steps: readonly BrightnessPoint[]; uncertainty: number }) {
  const told = steps.flatMap((step) => (step.light === null ? [] : [{ ...step, light: step.light }]));
  const label = `Light at ${told.map((step) => `${step.percent} %: ${Math.round(100 * step.light)} %${step.bars ? ", pulsing" : ""}`).join("; ")}`;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={label}
      style={{ width: "100%", maxWidth: WIDTH, display: "block" }}
    >
      <path d={`M${LEFT} ${TOP}V${HEIGHT - BOTTOM}H${WIDTH - 10}`} fill="none" stroke="currentColor" opacity="0.5" />
      <polyline
        points={told.map((step) => `${x(step.percent)},${y(step.light)}`).join(" ")}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.5"
      />
      {told.map((step) => (
        <g key={step.percent} stroke="currentColor">
          <path
            d={`M${x(step.percent)} ${y(step.light * (1 + uncertainty))}V${y(step.light * (1 - uncertainty))}`}
            opacity="0.7"
          />
          <circle cx={x(step.percent)} cy={y(step.light)} r="3" fill="currentColor" />
          {step.bars && <path d={`M${x(step.percent) - 8} 10v-6h4v6h4v-6h4v6h4`} fill="none" />}
        </g>
      ))}
      {[0, 0.5, 1].map((light) => (
        <text key={light} x={LEFT - 4} y={y(light) + 4} fontSize="10" textAnchor="end" fill="currentColor">
          {100 * light} %
        </text>
      ))}
      {steps.map((step) => (
        <text
          key={step.percent}
          x={x(step.percent)}
          y={HEIGHT - 8}
          fontSize="10"
          textAnchor="middle"
          fill="currentColor"
        >
          {step.percent}
        </text>
      ))}
    </svg>
  );
}
