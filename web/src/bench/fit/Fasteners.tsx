// The screws of a step: how many were met, and where those are that are elsewhere. A count is never filled in for anybody.

import { Box, Button, TextField, Typography } from "@mui/material";
import { useState } from "react";
import type { FitState } from "../api/client";
import { FASTENER_STATES, stateOf, type FastenerTexts } from "./fasteners";

/** `usual` is what such a step usually meets: above 0 they come out, below they go back. */
export function Fasteners({
  group,
  usual,
  known,
  texts,
  closed,
  onChange,
}: {
  group: string;
  usual: number;
  known: FitState["fasteners"][string] | undefined;
  texts: FastenerTexts;
  closed: boolean;
  onChange: (to: FastenerTexts) => void;
}) {
  const [more, setMore] = useState(false);
  const back = usual < 0;
  const name = group.replaceAll("_", " ");
  const own = known?.balance.length_mm ?? known?.length_mm;
  const fields = FASTENER_STATES.filter((one) => one.back === back);
  return (
    <Box role="group" aria-label={`${name} screws`} sx={{ my: 1 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
        <TextField
          size="small"
          label={`${name} screws ${back ? "back" : "out"}`}
          value={texts.met ?? ""}
          disabled={closed}
          helperText={back ? `${known?.balance.out ?? 0} are out` : `usually ${usual}`}
          sx={{ width: 170 }}
          slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 3 } }}
          onChange={(event) => {
            onChange({ ...texts, met: event.target.value });
          }}
        />
        <Button
          size="small"
          aria-expanded={more}
          disabled={closed}
          onClick={() => {
            setMore(!more);
          }}
        >
          {back ? "Not all of them" : "Loosened, or length"}
        </Button>
      </Box>
      {more && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
          {fields.map((one) => (
            <TextField
              key={one.id}
              size="small"
              label={one.title}
              value={texts[one.id] ?? ""}
              sx={{ width: 130 }}
              slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 3 } }}
              onChange={(event) => {
                onChange({ ...texts, [one.id]: event.target.value });
              }}
            />
          ))}
        </Box>
      )}
      {(more || (back && own)) && (
        <TextField
          size="small"
          label="Length, mm"
          value={texts.length_mm ?? ""}
          helperText={own ? `${own} mm are right` : "where groups differ"}
          sx={{ width: 170, mt: 1 }}
          slotProps={{ htmlInput: { inputMode: "decimal", maxLength: 5 } }}
          onChange={(event) => {
            onChange({ ...texts, length_mm: event.target.value });
          }}
        />
      )}
      {Number(texts.lost_inside ?? 0) > 0 && (
        <Typography variant="body2" color="error">
          No power before it is found.
        </Typography>
      )}
      {stateOf(texts) === null && (
        <Typography variant="body2" color="error">
          Whole numbers, and a length in mm.
        </Typography>
      )}
    </Box>
  );
}
