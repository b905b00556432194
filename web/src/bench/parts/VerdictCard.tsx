import { Box, Typography } from "@mui/material";
import { aboutLight } from "../about";
import { GreyPlot } from "../../pane/GreyPlot";
import { ofVerdict, StateMark, VERDICT_WORDS } from "../../theme/StateMark";
import type { Inspection } from "../api/client";

function Greys({ greys }: { greys: NonNullable<Inspection["greys"]> }) {
  return (
    <Box sx={{ mt: 1 }}>
      <Typography variant="body2" color="textSecondary">
        Gamma {greys.gamma.toFixed(2)} ± {greys.uncertainty.toFixed(2)} (red {greys.channels[0]?.toFixed(2)}, green{" "}
        {greys.channels[1]?.toFixed(2)}, blue {greys.channels[2]?.toFixed(2)}). Greys stray from white by at most{" "}
        {greys.max_delta_uv.toFixed(4)} ± {greys.delta_uv_uncertainty.toFixed(4)} in u'v'.
        {greys.camera_curve_learned
          ? ""
          : " The camera's tone curve could not be learned from this ladder, so gamma is uncertain."}
      </Typography>
      <GreyPlot points={greys.points} gamma={greys.gamma} usual={greys.usual_gamma} />
      <Typography variant="body2" color="textSecondary">
        Light of the greys over their drive. Dots: measured; line: the gamma above; dashed: {greys.usual_gamma}.
      </Typography>
    </Box>
  );
}

function others(light: NonNullable<Inspection["uniformity"]>): string {
  const told = (
    [
      [light.ratio_of_five, "five"],
      [light.ratio_of_thirteen, "thirteen"],
    ] as const
  ).filter(([ratio]) => typeof ratio === "number");
  return told.map(([ratio, name]) => `; of ${name} ${(ratio ?? 0).toFixed(2)}`).join("");
}

/** `left`: patterns that are still to be shot or read; until then more can be found, and less is proven. */
export function VerdictCard({ result, left = 0 }: { result: Inspection; left?: number }) {
  const { verdict } = result;
  return (
    <Box
      component="section"
      aria-label="Verdict"
      sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5, my: 1.5 }}
    >
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        <StateMark state={ofVerdict(verdict.result)} size={28} />
        <Typography variant="h1" component="p">
          {VERDICT_WORDS[verdict.result]}
        </Typography>
        <Typography color="textSecondary" sx={{ ml: "auto" }}>
          {verdict.profile}, {(100 * verdict.proven_fraction).toFixed(1)} % proven
        </Typography>
      </Box>
      {left > 0 && (
        <Typography variant="body2" sx={{ mt: 0.5 }}>
          Provisional: {left === 1 ? "1 pattern is" : `${left} patterns are`} still to be shot or read.
        </Typography>
      )}
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, mt: 1 }}>
        {verdict.criteria.map((one) => (
          <Box component="li" key={one.id} sx={{ display: "flex", gap: 1, py: 0.4 }}>
            <StateMark state={ofVerdict(one.result)} size={16} />
            <Typography variant="body2">{one.text}</Typography>
          </Box>
        ))}
      </Box>
      {result.uniformity && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
          Light, darkest to brightest of nine points: {result.uniformity.ratio.toFixed(2)} ±{" "}
          {result.uniformity.uncertainty.toFixed(2)} (lens fall-off included){others(result.uniformity)}.
        </Typography>
      )}
      {result.white_light && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
          White gives {aboutLight(result.white_light)}, by the camera&apos;s exposure at the brightness that was set.
        </Typography>
      )}
      {result.data_bits && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
          {result.data_bits.reasons.join(" ")}
        </Typography>
      )}
      {result.reference && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
          {result.reference.text}
        </Typography>
      )}
      {result.greys && <Greys greys={result.greys} />}
    </Box>
  );
}
