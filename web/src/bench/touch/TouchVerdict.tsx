import { Alert, Box, Typography } from "@mui/material";
import { ofVerdict, StateMark, VERDICT_WORDS } from "../../theme/StateMark";
import type { Touch } from "../api/client";
import { useVocabulary } from "../api/hooks";

type Result = NonNullable<Touch["result"]>;
/** What the criteria say already. */
const JUDGED = new Set(["Reports", "Jitter at rest", "Off a straight line", "Fingers at once"]);
const percent = (share: number): string => `${(100 * share).toFixed(1)} %`;

function measures(result: Result): [string, string][] {
  const rows: [string, string | null][] = [
    [
      "Surely crossed",
      `${percent(result.coverage)} of ${result.cells.columns} x ${result.cells.rows} cells${result.cells.size_mm ? ` of ${result.cells.size_mm.toFixed(1)} mm` : ""}`,
    ],
    ["Hands off", result.soaked_minutes ? `${result.soaked_minutes.toFixed(1)} min` : null],
    ["Reports", result.report_rate_hz ? `${Math.round(result.report_rate_hz)} a second` : null],
    ["Jitter at rest", result.jitter_px_rms === null ? null : `${result.jitter_px_rms.toFixed(1)} px rms`],
    [
      "Off a straight line",
      result.linearity_px_max === null ? null : `${Math.round(result.linearity_px_max)} px at most, the hand included`,
    ],
    ["Strokes that broke off", result.dropouts.length ? String(result.dropouts.length) : null],
    ["Fingers at once", result.fingers ? `${result.fingers.most} of ${result.fingers.asked}` : null],
    ["Against the drawn path", result.fit ? result.fit.text : null],
  ];
  const judged = (result.criteria ?? []).length > 0;
  return rows.flatMap(([name, text]) =>
    text && !(judged && JUDGED.has(name)) ? [[name, text] as [string, string]] : [],
  );
}

export function TouchVerdict({ touch }: { touch: Touch }) {
  const vocabulary = useVocabulary();
  const { result } = touch;
  if (touch.problem)
    return (
      <Alert severity="error" variant="outlined" sx={{ my: 1 }}>
        {touch.problem}
      </Alert>
    );
  if (!result) return null;
  const criteria = result.criteria ?? [];
  const said = new Set(criteria.map((one) => one.text));
  const title = (id: string) => vocabulary.data?.causes.find((one) => one.id === id)?.title ?? id;
  return (
    <Box
      component="section"
      aria-label="Touch verdict"
      sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5, my: 1.5 }}
    >
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        <StateMark state={ofVerdict(result.verdict)} size={28} />
        <Typography variant="h1" component="p">
          {VERDICT_WORDS[result.verdict]}
        </Typography>
        <Typography color="textSecondary" sx={{ ml: "auto" }}>
          touch
        </Typography>
      </Box>
      <Box component="ul" sx={{ pl: 2.5, my: 1 }}>
        {result.reasons
          .filter((line) => !said.has(line))
          .map((line) => (
            <li key={line}>
              <Typography>{line}</Typography>
            </li>
          ))}
      </Box>
      {criteria.length > 0 && (
        <Box component="ul" aria-label="Touch limits" sx={{ listStyle: "none", p: 0, m: 0, mb: 1 }}>
          {criteria.map((one) => (
            <Box component="li" key={one.id} sx={{ display: "flex", gap: 1, py: 0.4 }}>
              <StateMark state={ofVerdict(one.result)} size={16} />
              <Typography variant="body2">{one.text}</Typography>
            </Box>
          ))}
        </Box>
      )}
      {(result.suspects ?? []).length > 0 && (
        <Typography sx={{ mb: 1 }}>
          By this alone, likely:{" "}
          {(result.suspects ?? [])
            .slice(0, 3)
            .map((one) => `${title(one.cause)} ${Math.round(100 * one.p)} %`)
            .join(", ")}
          . Isolate weighs it with all else.
        </Typography>
      )}
      <Box component="dl" sx={{ m: 0, display: "grid", gridTemplateColumns: "auto 1fr", columnGap: 2 }}>
        {measures(result).map(([name, text]) => [
          <Typography key={`${name}-t`} component="dt" variant="body2" color="textSecondary">
            {name}
          </Typography>,
          <Typography key={name} component="dd" variant="body2" sx={{ m: 0 }}>
            {text}
          </Typography>,
        ])}
      </Box>
      {(result.problems ?? []).map((line) => (
        <Typography key={line} variant="body2" color="warning">
          {line}
        </Typography>
      ))}
    </Box>
  );
}
