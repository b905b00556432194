// Begin the inspection of a panel: from an order that arrived, or of a panel of the register.

import {
  Autocomplete,
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  MenuItem,
  TextField,
  Typography,
} from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, got, type Order, type Panel } from "../api/client";
import { useProfiles, useSingle } from "../api/hooks";
import { usePanels } from "../match/usePanels";
import { ErrorNote } from "../parts/notes";

/** Begin an inspection: from an order that arrived, or of a panel of the register. */
export function BeginDialog({ lineId, onClose }: { lineId: number | null; onClose: () => void }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const profiles = useProfiles();
  const [line, setLine] = useState<number | null>(lineId);
  const [panel, setPanel] = useState<Panel | null>(null);
  const [words, setWords] = useState("");
  const panels = usePanels(words);
  const [place, setPlace] = useState<"rig" | "device">("rig");
  const [serial, setSerial] = useState("");
  const [profile, setProfile] = useState("class-II");
  const [whole, setWhole] = useState(true);
  const orders = useQuery({
    queryKey: ["orders", "arrived"],
    queryFn: () => got<{ orders: Order[] }>(client.GET("/api/orders", { params: { query: { state: "arrived" } } })),
  });
  const arrived = (orders.data?.orders ?? []).flatMap((order) =>
    order.lines
      .filter((one) => !one.outcome || one.id === lineId)
      .map((one) => ({ id: one.id, title: `${one.panel}, order ${order.id} from ${order.supplier}` })),
  );
  const begin = useSingle(
    useMutation<{ job_id: number }, Error, null>({
      mutationFn: () =>
        got(
          client.POST("/api/incoming", {
            body: {
              line_id: line,
              panel_id: line === null ? (panel?.id ?? null) : null,
              place,
              serial,
              profile,
              liners_whole: whole,
            },
          }),
        ),
      onSuccess: ({ job_id }) => {
        void queries.invalidateQueries({ queryKey: ["incoming"] });
        void go(`/jobs/${job_id}/inspect`);
      },
    }),
  );
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="begin-title">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          begin.mutate(null);
        }}
      >
        <DialogTitle id="begin-title">Inspect a panel</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          <TextField
            select
            label="From an order that arrived"
            value={line ?? ""}
            sx={{ mt: 1 }}
            onChange={(event) => {
              setLine(event.target.value === "" ? null : Number(event.target.value));
            }}
          >
            <MenuItem value="">None: a panel of the register</MenuItem>
            {arrived.map((one) => (
              <MenuItem key={one.id} value={one.id}>
                {one.title}
              </MenuItem>
            ))}
          </TextField>
          {line === null && (
            <Autocomplete
              options={panels.data ?? []}
              value={panel}
              filterOptions={(all) => all}
              getOptionLabel={(one) => one.name}
              getOptionKey={(one) => one.id}
              isOptionEqualToValue={(first, second) => first.id === second.id}
              noOptionsText="No panel of the register has this number. Add it under Panels."
              onInputChange={(_, text, reason) => {
                if (reason === "input") setWords(text);
              }}
              onChange={(_, one) => {
                setPanel(one);
              }}
              renderInput={(fields) => <TextField {...fields} label="Panel" />}
            />
          )}
          <TextField
            select
            label="Where it is"
            value={place}
            onChange={(event) => {
              setPlace(event.target.value as typeof place);
            }}
          >
            <MenuItem value="rig">Loose on the test rig</MenuItem>
            <MenuItem value="device">In a device</MenuItem>
          </TextField>
          <TextField
            label="Serial number"
            value={serial}
            slotProps={{ htmlInput: { maxLength: 60 } }}
            onChange={(event) => {
              setSerial(event.target.value);
            }}
          />
          <TextField
            select
            label="Held to"
            value={profile}
            onChange={(event) => {
              setProfile(event.target.value);
            }}
          >
            {(profiles.data ?? []).map(({ profile: one }) => (
              <MenuItem key={one.id} value={one.id}>
                {one.title}
              </MenuItem>
            ))}
          </TextField>
          <FormControlLabel
            control={
              <Checkbox
                checked={whole}
                onChange={(_, checked) => {
                  setWhole(checked);
                }}
              />
            }
            label="Every liner and tab is still on it"
          />
          <Typography variant="body2" color="textSecondary">
            Peel nothing before it is measured: with most suppliers the right of return ends there. Power off before any
            plug; strap and mat.
          </Typography>
          <ErrorNote error={begin.error ?? orders.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={begin.isPending || (line === null && panel === null)}>
            Begin
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
