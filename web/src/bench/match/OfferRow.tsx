// One offer held to the panel in the device: what decides first, then what is to be told.

import { Box, Button, Checkbox, FormControlLabel, Typography } from "@mui/material";
import { useState } from "react";
import { StateMark, type State } from "../../theme/StateMark";
import type { MatchState } from "../api/client";

export const FIT_WORDS = {
  fits: "Fits",
  fits_with_consequences: "Fits, tell the owner",
  ask: "Not decided",
  stop: "Does not fit",
} as const;
const STATES: Record<keyof typeof FIT_WORDS, State> = {
  fits: "done",
  fits_with_consequences: "active",
  ask: "not_proven",
  stop: "failed",
};
const TELL = { fits_with_consequences: "The owner was told", ask: "The owner takes the risk" } as const;

export function OfferRow({
  entry,
  currency,
  chosen,
  closed,
  onChoose,
}: {
  entry: MatchState["offers"][number];
  currency: string;
  chosen: boolean;
  closed: boolean;
  onChoose: (told: boolean) => void;
}) {
  const [told, setTold] = useState(false);
  const { offer, match } = entry;
  const notable = match.items.filter((item) => item.result !== "agrees");
  const ask = match.result === "ask" || match.result === "fits_with_consequences" ? TELL[match.result] : null;
  return (
    <Box sx={{ py: 1.25, borderTop: 1, borderColor: "divider" }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        <StateMark state={STATES[match.result]} />
        <Typography sx={{ fontWeight: 600 }}>
          {offer.panel.name}: {FIT_WORDS[match.result]}
        </Typography>
        <Typography sx={{ ml: "auto", whiteSpace: "nowrap" }}>
          {offer.price} + {offer.shipping} {currency}
        </Typography>
      </Box>
      <Typography variant="body2" color="textSecondary">
        {offer.supplier}: {offer.delivery_days} days,{" "}
        {offer.warranty_months ? `${offer.warranty_months} months of warranty` : "no warranty"},{" "}
        {offer.doa_days ? `a dead one goes back within ${offer.doa_days} days` : "a dead one does not go back"}
      </Typography>
      {notable.map((item) => (
        <Typography key={item.property} variant="body2">
          <b>{item.title}</b>:{" "}
          {item.result === "unknown"
            ? `${item.reason} ${item.ask ?? ""}`
            : `${item.wanted ?? "unknown"} in the device, ${item.offered ?? "unknown"} offered. ${item.reason}`}
        </Typography>
      ))}
      {match.link && (
        <Typography variant="body2" color="textSecondary">
          {match.link.text}
        </Typography>
      )}
      {!closed && ask && !chosen && (
        <FormControlLabel
          control={
            <Checkbox
              checked={told}
              onChange={(event) => {
                setTold(event.target.checked);
              }}
            />
          }
          label={ask}
        />
      )}
      {chosen ? (
        <Typography variant="body2" sx={{ fontWeight: 600 }}>
          Chosen for this job.
        </Typography>
      ) : (
        !closed &&
        match.result !== "stop" && (
          <Button
            variant="outlined"
            disabled={Boolean(ask) && !told}
            onClick={() => {
              onChoose(told);
            }}
          >
            Choose
          </Button>
        )
      )}
    </Box>
  );
}
