// Match: which panel is in the device, and which offer goes in its place.

import { Autocomplete, Box, Button, TextField, Typography } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Job, type MatchState, type Panel } from "../api/client";
import { useShop } from "../api/hooks";
import { useJobChange } from "../api/job";
import { Empty, ErrorNote, Waiting } from "../parts/notes";
import { OfferDialog } from "./OfferDialog";
import { OfferRow } from "./OfferRow";
import { PanelDialog, type PanelEntry } from "./PanelDialog";
import { briefly } from "./specFields";
import { usePanels } from "./usePanels";

const SCHOOLS = {
  exact: "This job follows the rule: the exact number only.",
  fit_form_function: "This job follows the rule: same fit, form and function.",
  try: "This job follows the rule: size and plug alike, give it a try.",
} as const;

export function Match({ job }: { job: Job }) {
  const queries = useQueryClient();
  const shop = useShop();
  const key = ["job", job.id, "match"];
  const path = { params: { path: { job_id: job.id } } };
  const state = useQuery({
    queryKey: key,
    queryFn: () => got<MatchState>(client.GET("/api/jobs/{job_id}/match", path)),
  });
  const [words, setWords] = useState("");
  const [adding, setAdding] = useState(false);
  const [mending, setMending] = useState(false);
  const [offered, setOffered] = useState<Panel | null>(null);
  const [other, setOther] = useState("");
  const panels = usePanels(words);
  const others = usePanels(other);
  const closed = Boolean(job.closed_at);
  const set = (answer: unknown) => {
    if (answer && typeof answer === "object" && "offers" in answer) queries.setQueryData(key, answer);
  };
  const name = useJobChange<number>(job.id, (panel_id) =>
    client.POST("/api/jobs/{job_id}/match/panel", { ...path, body: { panel_id } }),
  );
  const add = useJobChange<PanelEntry>(job.id, (panel) =>
    client.POST("/api/jobs/{job_id}/match/new-panel", { ...path, body: { ...panel, version: 0 } }),
  );
  const mend = useMutation({
    mutationFn: ({ panel, entry }: { panel: Panel; entry: PanelEntry }) =>
      got<Panel>(
        client.PATCH("/api/panels/{panel_id}", {
          params: { path: { panel_id: panel.id } },
          body: { ...entry, version: panel.version },
        }),
      ),
    onSuccess: () => {
      setMending(false);
      void queries.invalidateQueries({ queryKey: key });
      void queries.invalidateQueries({ queryKey: ["panels"] });
    },
  });
  const choose = useJobChange<{ offer_id: number; consequences_told: boolean }>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/match/offer", { ...path, body }),
  );
  if (state.isPending) return <Waiting words="Loading panels and offers" />;
  if (!state.data) return <ErrorNote error={state.error} onRetry={() => void state.refetch()} />;
  const { wanted, offers } = state.data;
  const stops = offers.filter((entry) => entry.match.result === "stop");
  return (
    <Box>
      <Typography sx={{ mb: 1.5 }}>
        Read the label on the panel&apos;s back: the device&apos;s name alone is not enough.
      </Typography>
      <Autocomplete
        options={panels.data ?? []}
        value={wanted ?? null}
        disabled={closed}
        filterOptions={(all) => all}
        getOptionLabel={(panel) => panel.name}
        getOptionKey={(panel) => panel.id}
        isOptionEqualToValue={(one, two) => one.id === two.id}
        noOptionsText="No panel of the register has this number. Add it below."
        onInputChange={(_, text, reason) => {
          if (reason === "input") setWords(text);
        }}
        onChange={(_, panel) => {
          if (panel) name.mutate(panel.id, { onSuccess: set });
        }}
        renderOption={({ key: row, ...rest }, panel) => (
          <li key={row} {...rest}>
            <Box>
              <Typography>{panel.name}</Typography>
              <Typography variant="body2" color="textSecondary">
                {panel.maker ? `${panel.maker}, ` : ""}
                {briefly(panel.spec)}
              </Typography>
            </Box>
          </li>
        )}
        renderInput={(params) => <TextField {...params} label="Panel in the device" />}
      />
      {wanted && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: 0.5 }}>
          {wanted.maker ? `${wanted.maker}, ` : ""}
          {briefly(wanted.spec)}
        </Typography>
      )}
      {!closed && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
          {wanted && (
            <Button
              variant="outlined"
              onClick={() => {
                setMending(true);
              }}
            >
              Enter more of it
            </Button>
          )}
          <Button
            variant={wanted ? "text" : "outlined"}
            onClick={() => {
              setAdding(true);
            }}
          >
            {wanted ? "It is another one, not in the register" : "It is not in the register: add it"}
          </Button>
        </Box>
      )}
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
      <Typography variant="body2" color="textSecondary" sx={{ mb: 1 }}>
        {SCHOOLS[state.data.school]}
      </Typography>
      {!wanted && <Empty>Say first which panel is in the device; then every offer is compared with it.</Empty>}
      {wanted && offers.length === 0 && <Empty>Nobody offers a panel yet. Add what a supplier offers.</Empty>}
      {offers.map(
        (entry) =>
          entry.match.result !== "stop" && (
            <OfferRow
              key={entry.offer.id}
              entry={entry}
              currency={shop.data?.currency ?? ""}
              chosen={entry.offer.id === state.data.chosen_offer_id}
              closed={closed}
              onChoose={(told) => {
                choose.mutate({ offer_id: entry.offer.id, consequences_told: told }, { onSuccess: set });
              }}
            />
          ),
      )}
      {stops.length > 0 && (
        <Box component="details" sx={{ borderTop: 1, borderColor: "divider", py: 1 }}>
          <Box component="summary" sx={{ cursor: "pointer", minHeight: 44, display: "flex", alignItems: "center" }}>
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
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1, alignItems: "center" }}>
          <Autocomplete
            sx={{ flex: 1, minWidth: 200 }}
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
        </Box>
      )}
      {offered && (
        <OfferDialog
          panel={offered}
          onDone={() => {
            void queries.invalidateQueries({ queryKey: key });
          }}
          onClose={() => {
            setOffered(null);
          }}
        />
      )}
      {mending && wanted && (
        <PanelDialog
          title={wanted.name}
          action="Save"
          start={wanted}
          busy={mend.isPending}
          error={mend.error}
          onSave={(entry) => {
            mend.mutate({ panel: wanted, entry });
          }}
          onClose={() => {
            setMending(false);
            mend.reset();
          }}
        />
      )}
      {adding && (
        <PanelDialog
          title="Panel in the device"
          action="Add and use it"
          start={{ name: wanted ? "" : words, maker: "", spec: { width: job.panel_width, height: job.panel_height } }}
          busy={add.isPending}
          error={add.error}
          onSave={(panel) => {
            add.mutate(panel, {
              onSuccess: (answer) => {
                set(answer);
                setAdding(false);
                void queries.invalidateQueries({ queryKey: ["panels"] });
              },
            });
          }}
          onClose={() => {
            setAdding(false);
            add.reset();
          }}
        />
      )}
    </Box>
  );
}
