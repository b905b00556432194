// Cost against day, one dot an offer: filled where no other is both cheaper and sooner.

import { Box, Typography } from "@mui/material";
import { useShop } from "../api/hooks";
import type { Job } from "../api/client";
import { dayWords } from "../jobs/days";
import { dotsOf } from "./tradeOff";
import { useBuying, useMatchState } from "./useMatch";

const [WIDTH, HEIGHT, LEFT, TOP, RIGHT, BOTTOM] = [400, 110, 76, 14, 110, 28];

export function TradeOff({ job }: { job: Job }) {
  const buying = useBuying(job.id);
  const match = useMatchState(job.id);
  const currency = useShop().data?.currency ?? "";
  const dots = dotsOf(buying.data?.ranked ?? [], WIDTH, HEIGHT);
  if (dots.length < 2) return null;
  const chosen = match.data?.chosen_offer_id;
  const name = (id: number) => match.data?.offers.find((one) => one.offer.id === id)?.offer;
  const costs = dots.map((dot) => dot.cost);
  const days = dots.map((dot) => dot.day).sort();
  const words = dots
    .map((dot) => `${name(dot.id)?.supplier ?? "An offer"}: ${dot.cost.toFixed(2)} ${currency}, ${dayWords(dot.day)}`)
    .join("; ");
  return (
    <Box component="figure" sx={{ m: 0, mt: 2 }}>
      <Typography component="figcaption" variant="body2" color="textSecondary">
        What each offer costs in the end, and when the device is ready
      </Typography>
      <Box
        component="svg"
        role="img"
        aria-label={words}
        viewBox={`0 0 ${WIDTH + LEFT + RIGHT} ${HEIGHT + TOP + BOTTOM}`}
        sx={{ width: "100%", maxWidth: 620, display: "block", color: "text.secondary", fontSize: 12 }}
      >
        <path
          d={`M${LEFT - 12} ${TOP - 6}V${TOP + HEIGHT + 10}H${LEFT + WIDTH + 12}`}
          fill="none"
          stroke="currentColor"
        />
        {[Math.max(...costs), Math.min(...costs)].map((cost, n) => (
          <text key={n} x={LEFT - 18} y={TOP + n * HEIGHT + 4} textAnchor="end" fill="currentColor">
            {cost.toFixed(0)} {currency}
          </text>
        ))}
        {[days[0], days.at(-1)].map((day, n) => (
          <text
            key={n}
            x={LEFT + n * WIDTH}
            y={TOP + HEIGHT + BOTTOM - 3}
            textAnchor={n ? "end" : "start"}
            fill="currentColor"
          >
            {day ? dayWords(day) : ""}
          </text>
        ))}
        {dots.map((dot) => (
          <g key={dot.id} transform={`translate(${LEFT + dot.x} ${TOP + dot.y})`}>
            <Box
              component="circle"
              r={dot.id === chosen ? 7 : 5}
              sx={{
                fill: (theme) => (dot.best ? theme.palette.primary.main : "transparent"),
                stroke: (theme) => theme.palette.primary.main,
                strokeWidth: 1.5,
              }}
            />
            {dot.best && (
              <Box component="text" x={10} y={4} sx={{ fill: (theme) => theme.palette.text.primary }}>
                {name(dot.id)?.supplier.split(" ")[0]}
              </Box>
            )}
          </g>
        ))}
      </Box>
    </Box>
  );
}
