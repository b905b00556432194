// Which panel is in the device: read from its label, told by the shop's own closed jobs, or entered.

import { Autocomplete, Box, Button, TextField, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { BackDrawing, backWords } from "../../pane/BackDrawing";
import { client, got, type Job, type MatchState, type Panel } from "../api/client";
import { useJobChange } from "../api/job";
import { useKeys } from "../keys/useKeys";
import { ErrorNote, Key } from "../parts/notes";
import { LabelDialog } from "./LabelDialog";
import { PanelDialog, type PanelEntry } from "./PanelDialog";
import { briefly, SPEC_FIELDS } from "./specFields";
import { useMatchChanges } from "./useMatch";
import { usePanels } from "./usePanels";

/** How a chance is told: in tenths, never as certain. */
function likelihood(p: number): string {
  if (p >= 0.95) return "Almost surely this one.";
  if (p < 0.05) return "Unlikely.";
  return `About ${Math.round(10 * p)} in 10.`;
}

export function Identity({ job, state }: { job: Job; state: MatchState }) {
  const queries = useQueryClient();
  const { name, taken } = useMatchChanges(job.id);
  const [words, setWords] = useState("");
  const [reading, setReading] = useState(false);
  const [adding, setAdding] = useState<string | null>(null);
  const [mending, setMending] = useState(false);
  const panels = usePanels(words);
  const closed = Boolean(job.closed_at);
  const { wanted } = state;
  const likely = wanted ? undefined : state.likely[0];
  const take = (panelId: number) => {
    name.mutate(panelId, { onSuccess: taken });
  };
  useKeys({
    h:
      likely && !closed
        ? () => {
            take(likely.panel.id);
          }
        : undefined,
  });
  const learn = useJobChange<null>(job.id, () =>
    client.POST("/api/jobs/{job_id}/match/learn-edid", { params: { path: { job_id: job.id } } }),
  );
  const add = useJobChange<PanelEntry>(job.id, (panel) =>
    client.POST("/api/jobs/{job_id}/match/new-panel", {
      params: { path: { job_id: job.id } },
      body: { ...panel, version: 0 },
    }),
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
      void queries.invalidateQueries({ queryKey: ["job", job.id] });
      void queries.invalidateQueries({ queryKey: ["panels"] });
    },
  });
  return (
    <Box component="section" aria-label="Panel in the device">
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        <Autocomplete
          sx={{ flex: 1, minWidth: 0 }}
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
            if (panel) take(panel.id);
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
        {!closed && (
          <Button
            variant={wanted ? "text" : "contained"}
            sx={{ minHeight: 40, whiteSpace: "nowrap" }}
            onClick={() => {
              setReading(true);
            }}
          >
            Read the label
          </Button>
        )}
      </Box>
      {wanted && (
        <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr) 150px", gap: 1, mt: 0.5 }}>
          <Typography variant="body2" color="textSecondary">
            {wanted.maker ? `${wanted.maker}, ` : ""}
            {briefly(wanted.spec)}
            <br />
            {backWords(wanted.spec)}
          </Typography>
          <BackDrawing spec={wanted.spec} maxWidth={150} />
        </Box>
      )}
      {state.code && (
        <Typography variant="body2" sx={{ mt: 0.5 }}>
          {state.code.code}...: {[state.code.maker, state.code.controller].filter(Boolean).join(", ")}{" "}
          {state.code.trouble && <b>Known for: {state.code.trouble}</b>}
        </Typography>
      )}
      {Object.keys(state.edid_tells).length > 0 && !closed && (
        <Typography variant="body2" sx={{ mt: 0.5 }}>
          The EDID that was read tells more of it:{" "}
          {SPEC_FIELDS.filter(({ name }) => name in state.edid_tells)
            .map((field) => `${field.label.split(/[,(]/)[0]?.trim() ?? ""} ${state.edid_tells[field.name] ?? ""}`)
            .join(", ")}
          .{" "}
          <Button
            size="small"
            disabled={learn.isPending}
            onClick={() => {
              learn.mutate(null, { onSuccess: taken });
            }}
          >
            Into the register
          </Button>
        </Typography>
      )}
      {state.likely.map(
        (one) =>
          one.panel.id !== wanted?.id && (
            <Typography key={one.panel.id} variant="body2" sx={{ mt: 0.5 }}>
              <b>{one.panel.name}</b>: {one.reasons.join(" ")} {likelihood(one.p)}
              {one.enough ? " By the house rule enough to order." : " The label decides."}{" "}
              {!closed && (
                <Button
                  size="small"
                  onClick={() => {
                    take(one.panel.id);
                  }}
                >
                  Take it {one === likely && <Key>h</Key>}
                </Button>
              )}
            </Typography>
          ),
      )}
      {!closed && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 0.5 }}>
          {wanted && (
            <Button
              size="small"
              onClick={() => {
                setMending(true);
              }}
            >
              Enter more of it
            </Button>
          )}
          <Button
            size="small"
            onClick={() => {
              setAdding(wanted ? "" : words);
            }}
          >
            {wanted ? "It is another one, not in the register" : "It is not in the register: add it"}
          </Button>
        </Box>
      )}
      <ErrorNote
        error={name.error ?? learn.error}
        onClose={() => {
          name.reset();
          learn.reset();
        }}
      />
      {reading && (
        <LabelDialog
          jobId={job.id}
          onKnown={(panelId) => {
            setReading(false);
            take(panelId);
          }}
          onNew={(number) => {
            setReading(false);
            setAdding(number);
          }}
          onClose={() => {
            setReading(false);
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
      {adding !== null && (
        <PanelDialog
          title="Panel in the device"
          action="Add and use it"
          start={{ name: adding, maker: "", spec: { width: job.panel_width, height: job.panel_height } }}
          busy={add.isPending}
          error={add.error}
          onSave={(panel) => {
            add.mutate(panel, {
              onSuccess: () => {
                taken();
                setAdding(null);
                void queries.invalidateQueries({ queryKey: ["panels"] });
              },
            });
          }}
          onClose={() => {
            setAdding(null);
            add.reset();
          }}
        />
      )}
    </Box>
  );
}
