// What a touch surface must hold: the shipped limits, each with its reason, and those that a profile sets instead.

import { Box, Checkbox, FormControlLabel, TextField, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, got, type Profile, type TouchLimit } from "../api/client";
import { ErrorNote, Waiting } from "../parts/notes";

type Own = NonNullable<Profile["touch"]>;
export type LimitTexts = Readonly<Record<string, string>>;
/** Stands for a figure that is not judged; no person types it. */
export const NOT_JUDGED = "not judged";

const asNumber = (text: string): number => Number(text.replace(",", "."));
export const isBad = (text: string): boolean =>
  text !== "" && text !== NOT_JUDGED && !(asNumber(text) > 0 && asNumber(text) <= 1000);

export const textsOf = (own: Own | undefined): LimitTexts =>
  Object.fromEntries(Object.entries(own ?? {}).map(([id, value]) => [id, value === null ? NOT_JUDGED : String(value)]));

/** What the profile stores: a field left empty is the shipped limit, and not stored. */
export const ownOf = (texts: LimitTexts): Own =>
  Object.fromEntries(
    Object.entries(texts)
      .filter(([, text]) => text.trim() !== "")
      .map(([id, text]) => [id, text === NOT_JUDGED ? null : asNumber(text)]),
  );

export function TouchLimits({
  texts,
  readOnly,
  onChange,
}: {
  texts: LimitTexts;
  readOnly: boolean;
  onChange: (texts: LimitTexts) => void;
}) {
  const shipped = useQuery({
    queryKey: ["touch-limits"],
    queryFn: () => got<Record<string, TouchLimit>>(client.GET("/api/profiles/touch-limits")),
    staleTime: Infinity,
  });
  return (
    <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, display: "grid", gap: 1.5, minWidth: 0 }}>
      <Typography component="legend" variant="h2" sx={{ mb: 1 }}>
        Touch
      </Typography>
      <Typography variant="body2" color="textSecondary">
        A field left empty holds the limit that ships with Clear Lens. Dead cells and touches that nobody made always
        count.
      </Typography>
      {shipped.isPending && <Waiting words="Loading the limits" />}
      <ErrorNote error={shipped.error} onRetry={() => void shipped.refetch()} />
      {Object.entries(shipped.data ?? {}).map(([id, limit]) => {
        const text = texts[id] ?? "";
        const judged = text !== NOT_JUDGED;
        const word = limit.most != null ? "at most" : "at least";
        return (
          <Box
            key={id}
            sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "2fr 1fr" }, gap: 1, alignItems: "start" }}
          >
            <TextField
              label={`${limit.title}, ${word} (${limit.unit})`}
              value={judged ? text : ""}
              placeholder={String(limit.most ?? limit.least)}
              helperText={`Shipped: ${limit.most ?? limit.least}; ${limit.reason}`}
              disabled={!judged}
              error={isBad(text)}
              inputMode="decimal"
              slotProps={{ input: { readOnly }, inputLabel: { shrink: true }, htmlInput: { maxLength: 10 } }}
              onChange={(event) => {
                onChange({ ...texts, [id]: event.target.value });
              }}
            />
            <FormControlLabel
              control={
                <Checkbox
                  checked={judged}
                  disabled={readOnly}
                  onChange={(event) => {
                    onChange({ ...texts, [id]: event.target.checked ? "" : NOT_JUDGED });
                  }}
                />
              }
              label="judged"
              slotProps={{ typography: { "aria-label": `${limit.title}: judged` } }}
            />
          </Box>
        );
      })}
    </Box>
  );
}
