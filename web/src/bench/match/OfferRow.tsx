// One offer in two lines: does it fit, what does it cost in the end, when is the device ready. What decides is opened below.

import { Box, Button, ButtonBase, Checkbox, FormControlLabel, Typography } from "@mui/material";
import { useState } from "react";
import { StateMark, type State } from "../../theme/StateMark";
import type { MatchState, RankedOffer } from "../api/client";
import { dayWords } from "../jobs/days";
import { COMES_WITH, gradeWords } from "./specFields";

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
type Entry = MatchState["offers"][number];

function Sum({ ranked, currency }: { ranked: RankedOffer; currency: string }) {
  if (ranked.problem) return <Typography variant="body2">{ranked.problem}</Typography>;
  return (
    <>
      <Box component="dl" sx={{ display: "grid", gridTemplateColumns: "1fr auto", columnGap: 2, m: 0, maxWidth: 300 }}>
        {[...ranked.parts.map((part) => [part.title, part.amount]), ["Expected in all", ranked.cost]].map(
          ([title, amount]) => (
            <Box key={String(title)} sx={{ display: "contents" }}>
              <Typography component="dt" variant="body2" color="textSecondary">
                {title}
              </Typography>
              <Typography component="dd" variant="body2" sx={{ m: 0, textAlign: "right" }}>
                {amount} {currency}
              </Typography>
            </Box>
          ),
        )}
      </Box>
      {ranked.dead_range && ranked.dead_rate ? (
        <Typography variant="body2" color="textSecondary">
          Dead on arrival: {(100 * ranked.dead_rate).toFixed(0)} % ({(100 * ranked.dead_range[0]).toFixed(0)} to{" "}
          {(100 * ranked.dead_range[1]).toFixed(0)} %), from{" "}
          {ranked.orders === 0 ? "what is usual" : `${ranked.orders} of your orders`}.
        </Typography>
      ) : null}
    </>
  );
}

export function OfferRow({
  entry,
  ranked,
  currency,
  chosen,
  closed,
  open,
  onOpen,
  onChoose,
}: {
  entry: Entry;
  ranked: RankedOffer | undefined;
  currency: string;
  chosen: boolean;
  closed: boolean;
  open: boolean;
  onOpen: () => void;
  onChoose: (told: boolean) => void;
}) {
  const [told, setTold] = useState(false);
  const { offer, match } = entry;
  const notable = match.items.filter((item) => item.result !== "agrees");
  const ask = match.result === "ask" || match.result === "fits_with_consequences" ? TELL[match.result] : null;
  const extras = COMES_WITH.filter(([id]) => offer.comes_with.includes(id)).map(([, title]) => title.toLowerCase());
  return (
    <Box
      role="listitem"
      sx={{
        borderTop: 1,
        borderColor: "divider",
        ...(chosen && { boxShadow: (theme) => `inset 3px 0 0 ${theme.palette.primary.main}` }),
      }}
    >
      <ButtonBase
        aria-expanded={open}
        onClick={onOpen}
        sx={{
          width: "100%",
          minHeight: 48,
          px: 1,
          py: 0.5,
          display: "grid",
          gridTemplateColumns: "18px minmax(0, 1fr) auto",
          columnGap: 1,
          alignItems: "center",
          textAlign: "left",
        }}
      >
        <StateMark state={STATES[match.result]} />
        <Box sx={{ minWidth: 0 }}>
          <Typography sx={{ fontWeight: 600, overflowWrap: "anywhere" }}>
            {offer.panel.name}
            {chosen ? ", chosen" : ""}
          </Typography>
          <Typography variant="body2" color="textSecondary">
            {FIT_WORDS[match.result]}. {offer.on_shelf ? `${offer.on_shelf} on the shelf` : offer.supplier}
            {offer.grade ? `, ${gradeWords(offer.grade).toLowerCase()}` : ""}
            {offer.withdrawn ? ", withdrawn" : ""}
          </Typography>
        </Box>
        <Box sx={{ textAlign: "right", whiteSpace: "nowrap" }}>
          <Typography sx={{ fontWeight: ranked?.best ? 600 : 400 }}>
            {ranked?.cost ? `${ranked.cost} ${currency}` : `${offer.price} ${offer.currency}`}
          </Typography>
          <Typography variant="body2" color="textSecondary">
            {ranked?.ready_on ? `ready ${dayWords(ranked.ready_on)}` : ""}
            {ranked?.chance_in_time !== null && ranked?.chance_in_time !== undefined
              ? `, ${Math.min(99, Math.round(100 * ranked.chance_in_time))} % in time`
              : ""}
          </Typography>
        </Box>
      </ButtonBase>
      {open && (
        <Box sx={{ pl: 4, pr: 1, pb: 1.5, display: "grid", gap: 0.75 }}>
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
          {ranked && <Sum ranked={ranked} currency={currency} />}
          <Typography variant="body2" color="textSecondary">
            {offer.on_shelf ? "" : `${offer.delivery_days} business days, `}
            {offer.warranty_months ? `${offer.warranty_months} months of warranty` : "no warranty"},{" "}
            {offer.doa_days ? `a dead one goes back within ${offer.doa_days} days` : "a dead one does not go back"}.
            {extras.length > 0 ? ` Comes with: ${extras.join(", ")}.` : ""}
          </Typography>
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
          {!closed && !chosen && !offer.withdrawn && (
            <Button
              variant="outlined"
              sx={{ justifySelf: "start" }}
              disabled={Boolean(ask) && !told}
              onClick={() => {
                onChoose(told);
              }}
            >
              Choose
            </Button>
          )}
        </Box>
      )}
    </Box>
  );
}
