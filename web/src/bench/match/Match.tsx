// Match: which panel is in the device, which offer goes in its place, what the owner is told, what was ordered.

import { Autocomplete, Box, TextField, Typography } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Job, type Panel, type Proving } from "../api/client";
import { useShop } from "../api/hooks";
import { useKeys } from "../keys/useKeys";
import { Empty, ErrorNote, Key, Waiting } from "../parts/notes";
import { BuyingCard } from "./BuyingCard";
import { Identity } from "./Identity";
import { OfferDialog } from "./OfferDialog";
import { OfferRow } from "./OfferRow";
import { PanelSerial } from "./PanelSerial";
import { useBuying, useMatchChanges, useMatchState } from "./useMatch";
import { usePanels } from "./usePanels";

const SCHOOLS = {
  exact: "Rule of this job: the exact number only.",
  fit_form_function: "Rule of this job: same fit, form and function.",
  try: "Rule of this job: size and plug alike, give it a try.",
} as const;

const FOLD = { cursor: "pointer", minHeight: 44, display: "flex", alignItems: "center" } as const;

/** Functions that a display of this grade is likely to cost: told before the owner says yes. */
function Losses({ job, chosenId }: { job: Job; chosenId: number }) {
  const losses = useQuery({
    // a facet of its own, which hangs on the offer
    queryKey: ["job", job.id, "proving", chosenId],
    queryFn: () => got<Proving>(client.GET("/api/jobs/{job_id}/proving", { params: { path: { job_id: job.id } } })),
  }).data?.losses;
  if (!losses?.length) return null;
  return (
    <Box component="section" aria-label="To tell the owner before the order" sx={{ my: 1 }}>
      <Typography sx={{ fontWeight: 600 }}>Tell the owner before the order</Typography>
      {losses.map((words) => (
        <Typography key={words} variant="body2">
          {words}
        </Typography>
      ))}
    </Box>
  );
}

export function Match({ job }: { job: Job }) {
  const queries = useQueryClient();
  const shop = useShop();
  const state = useMatchState(job.id);
  const buying = useBuying(job.id);
  const { choose, taken } = useMatchChanges(job.id);
  const [opened, setOpened] = useState<number | null | undefined>(undefined);
  const [offered, setOffered] = useState<Panel | null>(null);
  const [other, setOther] = useState("");
  const others = usePanels(other);
  const closed = Boolean(job.closed_at);
  const chosenId = state.data?.chosen_offer_id ?? null;
  const ranks = new Map(buying.data?.ranked.map((one, place) => [one.offer_id, { one, place }]));
  const fitting = (state.data?.offers ?? [])
    .filter((entry) => entry.match.result !== "stop")
    .sort((a, b) => (ranks.get(a.offer.id)?.place ?? 99) - (ranks.get(b.offer.id)?.place ?? 99));
  const plain = fitting.find((entry) => entry.match.result === "fits" && !entry.offer.withdrawn);
  const take = (offer_id: number, told: boolean) => {
    choose.mutate({ offer_id, consequences_told: told }, { onSuccess: taken });
  };
  useKeys({
    o:
      plain && !closed && chosenId === null
        ? () => {
            take(plain.offer.id, false);
          }
        : undefined,
  });
  if (state.isPending) return <Waiting words="Loading panels and offers" />;
  if (!state.data) return <ErrorNote error={state.error} onRetry={() => void state.refetch()} />;
  const { wanted, offers } = state.data;
  const stops = offers.filter((entry) => entry.match.result === "stop");
  const firstOpen = chosenId === null ? (fitting[0]?.offer.id ?? null) : null;
  const open = opened === undefined ? firstOpen : opened;
  const asked = fitting.filter((entry) => entry.match.result === "ask");
  const question = asked.length > 0 && asked.length === fitting.length ? asked[0]?.match.items[0] : undefined;
  const picked = fitting.filter((entry) => entry.offer.id === chosenId);
  const shown = picked.length ? picked : fitting;
  const folded = picked.length ? fitting.filter((entry) => entry.offer.id !== chosenId) : [];
  const row = (entry: (typeof fitting)[number]) => (
    <OfferRow
      key={entry.offer.id}
      entry={entry}
      ranked={ranks.get(entry.offer.id)?.one}
      currency={shop.data?.currency ?? ""}
      chosen={entry.offer.id === chosenId}
      closed={closed}
      open={open === entry.offer.id}
      onOpen={() => {
        setOpened(open === entry.offer.id ? null : entry.offer.id);
      }}
      onChoose={(told) => {
        take(entry.offer.id, told);
        setOpened(null);
      }}
    />
  );
  return (
    <Box>
      <Identity job={job} state={state.data} />
      <ErrorNote
        error={choose.error}
        onClose={() => {
          choose.reset();
        }}
      />
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "baseline", mt: 1.5 }}>
        <Typography variant="h2">Offers</Typography>
        <Typography variant="body2" color="textSecondary">
          {SCHOOLS[state.data.school]}{" "}
          {plain && chosenId === null && !closed && (
            <>
              Cheapest that fits: <Key>o</Key>
            </>
          )}
        </Typography>
      </Box>
      {!wanted && (
        <Empty>
          Say first which panel is in the device; then every offer is compared with it. Where only its label tells, the
          quote below has the looking inside in it: open, photograph, close.
        </Empty>
      )}
      {wanted && offers.length === 0 && <Empty>Nobody offers a panel yet. Add what a supplier offers.</Empty>}
      {question && (
        <Typography sx={{ my: 1 }}>
          <b>Decides next:</b> {question.title.toLowerCase()}. {question.ask}
        </Typography>
      )}
      <ErrorNote error={buying.error} />
      <Box role="list" aria-label="Offers that may fit" sx={{ mt: 0.5 }}>
        {shown.map(row)}
      </Box>
      {chosenId !== null && <Losses job={job} chosenId={chosenId} />}
      {folded.length > 0 && (
        <Box component="details" sx={{ borderTop: 1, borderColor: "divider" }}>
          <Box component="summary" sx={FOLD}>
            {folded.length === 1 ? "1 other offer" : `${folded.length} other offers`} may fit
          </Box>
          <Box role="list" aria-label="Other offers">
            {folded.map(row)}
          </Box>
        </Box>
      )}
      {stops.length > 0 && (
        <Box component="details" sx={{ borderTop: 1, borderColor: "divider" }}>
          <Box component="summary" sx={FOLD}>
            {stops.length === 1 ? "1 does not fit" : `${stops.length} do not fit`}: why
          </Box>
          {stops.map((entry) => (
            <Typography key={entry.offer.id} variant="body2" sx={{ mb: 0.5 }}>
              <b>{entry.offer.panel.name}</b>, {entry.offer.supplier}. {entry.match.text} {entry.match.items[0]?.reason}
            </Typography>
          ))}
        </Box>
      )}
      {wanted && !closed && (
        <Autocomplete
          sx={{ mt: 1 }}
          size="small"
          options={others.data ?? []}
          filterOptions={(all) => all}
          getOptionLabel={(panel) => panel.name}
          getOptionKey={(panel) => panel.id}
          value={null}
          noOptionsText="Add the panel to the register first, under Parts."
          onInputChange={(_, text, reason) => {
            if (reason === "input") setOther(text);
          }}
          onChange={(_, panel) => {
            setOffered(panel);
          }}
          renderInput={(params) => <TextField {...params} label="Add an offer of ..." />}
        />
      )}
      {buying.data && <BuyingCard job={job} buying={buying.data} chosenId={chosenId} />}
      {chosenId !== null && <PanelSerial job={job} />}
      {offered && (
        <OfferDialog
          panel={offered}
          onDone={() => {
            void queries.invalidateQueries({ queryKey: ["job", job.id] });
          }}
          onClose={() => {
            setOffered(null);
          }}
        />
      )}
    </Box>
  );
}
