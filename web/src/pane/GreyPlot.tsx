// Light of the greys against their drive, both in shares of white on logarithmic axes: a gamma is a straight line there.

export interface GreyPoint {
  level: number;
  light: number;
}

const WIDTH = 300;
const HEIGHT = 150;
const LEFT = 38;
const BOTTOM = 22;
const DARKEST = 24 / 255;
const FAINTEST = 0.003;

const x = (share: number) => LEFT + (1 - Math.log(share) / Math.log(DARKEST)) * (WIDTH - LEFT - 10);
const y = (light: number) => 8 + (Math.log(Math.max(light, FAINTEST)) / Math.log(FAINTEST)) * (HEIGHT - BOTTOM - 8);

export function GreyPlot({ points, gamma, usual }: { points: readonly GreyPoint[]; gamma: number; usual: number }) {
  const line = (exponent: number) => {
    const start = Math.max(DARKEST, FAINTEST ** (1 / exponent));
    return `M${x(start).toFixed(1)} ${y(start ** exponent).toFixed(1)}L${x(1).toFixed(1)} ${y(1).toFixed(1)}`;
  };
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`Light of ${points.length} greys: gamma ${gamma.toFixed(2)}, dashed ${usual}`}
      style={{ width: "100%", maxWidth: WIDTH, display: "block" }}
    >
      <path d={`M${LEFT} 8V${HEIGHT - BOTTOM}H${WIDTH - 10}`} fill="none" stroke="currentColor" opacity="0.5" />
      <path d={line(usual)} fill="none" stroke="currentColor" opacity="0.6" strokeDasharray="4 4" />
      <path d={line(gamma)} fill="none" stroke="currentColor" strokeWidth="1.5" />
      {points.map((point) => (
        <circle key={point.level} cx={x(point.level / 255)} cy={y(point.light)} r="3" fill="currentColor" />
      ))}
      {[0.01, 0.1, 1].map((light) => (
        <text key={light} x={LEFT - 4} y={y(light) + 4} fontSize="10" textAnchor="end" fill="currentColor">
          {100 * light} %
        </text>
      ))}
      {[32, 64, 128, 255].map((level) => (
        <text
          key={level}
          x={x(level / 255)}
          y={HEIGHT - 8}
          fontSize="10"
          textAnchor={level === 255 ? "end" : "middle"}
          fill="currentColor"
        >
          {level}
        </text>
      ))}
    </svg>
  );
}
