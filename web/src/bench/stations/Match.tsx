import { Box, Button, Checkbox, FormControlLabel, MenuItem, TextField, Typography } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { StateMark, type State } from "../../theme/StateMark";
import { client, got, type Job, type MatchState, type Panel } from "../api/client";
import { useJobChange } from "../api/job";
import { Empty, ErrorNote, Waiting } from "../parts/notes";

const WORDS = { fits: "Fits", fits_with_consequences: "Fits with consequences", stop: "Stop" } as const;
const STATES: Record<keyof typeof WORDS, State> = {
  fits: "done",
  fits_with_consequences: "not_proven",
  stop: "failed",
};

function Offer({
  entry,
  chosen,
  closed,
  onChoose,
}: {
  entry: MatchState["offers"][number];
  chosen: boolean;
  closed: boolean;
  onChoose: (told: boolean) => void;
}) {
  const [told, setTold] = useState(false);
  const { offer, match } = entry;
  const differing = match.items.filter((item) => item.result !== "fits");
  return (
    <Box sx={{ py: 1.25, borderTop: 1, borderColor: "divider" }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        <StateMark state={STATES[match.result]} />
        <Typography sx={{ fontWeight: 600 }}>
          {offer.panel.name}, {WORDS[match.result]}
        </Typography>
        <Typography sx={{ ml: "auto", whiteSpace: "nowrap" }}>
          {offer.price} + {offer.shipping}
        </Typography>
      </Box>
      <Typography variant="body2" color="textSecondary">
        {offer.supplier}: {offer.delivery_days} days, warranty {offer.warranty_months} months, dead on arrival{" "}
        {offer.doa_days} days
      </Typography>
      {differing.map((item) => (
        <Typography key={item.property} variant="body2">
          <b>{item.property}</b>: {item.wanted} wanted, {item.offered} offered. {item.reason}
        </Typography>
      ))}
      {!closed && match.result === "fits_with_consequences" && !chosen && (
        <FormControlLabel
          control={
            <Checkbox
              checked={told}
              onChange={(e) => {
                setTold(e.target.checked);
              }}
            />
          }
          label="The owner was told"
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
            disabled={match.result === "fits_with_consequences" && !told}
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

export function Match({ job }: { job: Job }) {
  const queries = useQueryClient();
  const key = ["job", job.id, "match"];
  const state = useQuery({
    queryKey: key,
    queryFn: () => got<MatchState>(client.GET("/api/jobs/{job_id}/match", { params: { path: { job_id: job.id } } })),
  });
  const panels = useQuery({
    queryKey: ["panels"],
    queryFn: () => got<Panel[]>(client.GET("/api/panels")),
    staleTime: 60_000,
  });
  const set = (answer: unknown) => {
    if (answer && typeof answer === "object" && "offers" in answer) queries.setQueryData(key, answer);
  };
  const name = useJobChange<number>(job.id, (panel_id) =>
    client.POST("/api/jobs/{job_id}/match/panel", { params: { path: { job_id: job.id } }, body: { panel_id } }),
  );
  const choose = useJobChange<{ offer_id: number; consequences_told: boolean }>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/match/offer", { params: { path: { job_id: job.id } }, body }),
  );
  if (state.isPending || panels.isPending) return <Waiting words="Loading panels and offers" />;
  if (!state.data || !panels.data)
    return (
      <ErrorNote
        error={state.error ?? panels.error}
        onRetry={() => {
          void state.refetch();
          void panels.refetch();
        }}
      />
    );
  return (
    <Box>
      <Typography sx={{ mb: 1.5 }}>
        Read the label on the panel's back: the device's name alone is not enough.
      </Typography>
      <TextField
        select
        label="Panel in the device"
        value={state.data.wanted?.id ?? ""}
        disabled={Boolean(job.closed_at)}
        onChange={(e) => {
          name.mutate(Number(e.target.value), { onSuccess: set });
        }}
      >
        {panels.data.map((panel) => (
          <MenuItem key={panel.id} value={panel.id}>
            {panel.name}, {panel.spec.width}x{panel.spec.height}, {panel.spec.connector_pins} pins, {panel.spec.signal}
          </MenuItem>
        ))}
      </TextField>
      {panels.data.length === 0 && <Empty>No panel is on record yet.</Empty>}
      <ErrorNote
        error={name.error ?? choose.error}
        onClose={() => {
          name.reset();
          choose.reset();
        }}
      />
      <Typography variant="h2" sx={{ mt: 2, mb: 0.5 }}>
        Offers
      </Typography>
      {!state.data.wanted && <Empty>Name the panel first; then every offer is compared with it.</Empty>}
      {state.data.offers.map((entry) => (
        <Offer
          key={entry.offer.id}
          entry={entry}
          chosen={entry.offer.id === state.data.chosen_offer_id}
          closed={Boolean(job.closed_at)}
          onChoose={(told) => {
            choose.mutate({ offer_id: entry.offer.id, consequences_told: told }, { onSuccess: set });
          }}
        />
      ))}
    </Box>
  );
}
