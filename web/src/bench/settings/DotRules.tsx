// Rules on dots as suppliers write them: so many of a kind, in a part of the panel, closer together or larger than so much.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { ALL_KINDS, factsOf, wordOf } from "../../pane/marks";
import type { DotRule } from "../api/client";

type Kind = DotRule["kinds"][number];
const RULED = ALL_KINDS.filter((kind) => factsOf(kind).ruled);
const NEW: DotRule = {
  title: "Bright dots",
  kinds: ["bright_pixel", "bright_subpixel"],
  limit: 0,
  where: "everywhere",
  closer_than_mm: null,
  larger_than_mm: null,
};

/** A field that may be empty, for a number that may be missing. */
function Millimetres({
  label,
  value,
  readOnly,
  onChange,
}: {
  label: string;
  value: number | null | undefined;
  readOnly: boolean;
  onChange: (value: number | null) => void;
}) {
  const [text, setText] = useState(value?.toString() ?? "");
  return (
    <TextField
      label={label}
      value={text}
      slotProps={{ input: { readOnly } }}
      inputMode="decimal"
      error={text !== "" && !(Number(text.replace(",", ".")) > 0)}
      onChange={(event) => {
        setText(event.target.value);
        const number = Number(event.target.value.replace(",", "."));
        onChange(number > 0 ? number : null);
      }}
    />
  );
}

export function DotRules({
  rules,
  readOnly,
  onChange,
}: {
  rules: readonly DotRule[];
  readOnly: boolean;
  onChange: (rules: DotRule[]) => void;
}) {
  const change = (at: number, part: Partial<DotRule>) => {
    onChange(rules.map((rule, n) => (n === at ? { ...rule, ...part } : rule)));
  };
  return (
    <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, display: "grid", gap: 1.5 }}>
      <Typography component="legend" variant="h2" sx={{ mb: 1 }}>
        Rules on faults
      </Typography>
      {rules.length === 0 && (
        <Typography variant="body2" color="textSecondary">
          None beside the pixel-fault class.
        </Typography>
      )}
      {rules.map((rule, at) => (
        <Box
          key={at}
          sx={{
            display: "grid",
            gridTemplateColumns: { xs: "1fr 1fr", sm: "2fr 1fr 1fr" },
            gap: 1,
            borderTop: 1,
            borderColor: "divider",
            pt: 1.5,
          }}
        >
          <TextField
            label="Rule"
            value={rule.title}
            onChange={(event) => {
              change(at, { title: event.target.value });
            }}
            slotProps={{ input: { readOnly }, htmlInput: { maxLength: 80 } }}
          />
          <TextField
            label="At most"
            type="number"
            value={rule.limit}
            onChange={(event) => {
              change(at, { limit: Math.max(0, Math.round(Number(event.target.value))) });
            }}
            slotProps={{ input: { readOnly }, htmlInput: { min: 0, max: 100000 } }}
          />
          <TextField
            select
            label="Where"
            value={rule.where}
            slotProps={{ select: { readOnly } }}
            onChange={(event) => {
              change(at, { where: event.target.value as DotRule["where"] });
            }}
          >
            <MenuItem value="everywhere">everywhere</MenuItem>
            <MenuItem value="middle">in the middle</MenuItem>
            <MenuItem value="outer">outside the middle</MenuItem>
          </TextField>
          <TextField
            select
            label="Kinds"
            value={rule.kinds}
            slotProps={{ select: { multiple: true, readOnly } }}
            onChange={(event) => {
              const kinds = event.target.value as unknown as Kind[];
              if (kinds.length) change(at, { kinds });
            }}
          >
            {RULED.map((kind) => (
              <MenuItem key={kind} value={kind}>
                {wordOf(kind)}
              </MenuItem>
            ))}
          </TextField>
          <Millimetres
            label="Closer, mm"
            value={rule.closer_than_mm}
            readOnly={readOnly}
            onChange={(closer_than_mm) => {
              change(at, { closer_than_mm });
            }}
          />
          <Millimetres
            label="Larger, mm"
            value={rule.larger_than_mm}
            readOnly={readOnly}
            onChange={(larger_than_mm) => {
              change(at, { larger_than_mm });
            }}
          />
          {!readOnly && (
            <Button
              size="small"
              sx={{ justifySelf: "start" }}
              onClick={() => {
                onChange(rules.filter((_, n) => n !== at));
              }}
            >
              Remove this rule
            </Button>
          )}
        </Box>
      ))}
      {!readOnly && rules.length < 20 && (
        <Button
          variant="outlined"
          sx={{ justifySelf: "start" }}
          onClick={() => {
            onChange([...rules, NEW]);
          }}
        >
          Add a rule
        </Button>
      )}
    </Box>
  );
}
