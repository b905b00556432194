// The shop's own base rates: what closed jobs turned out to be, beside what ships, by device type.

import {
  Alert,
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  ToggleButton,
  ToggleButtonGroup,
  Typography,
} from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Rates as RatesOf } from "../api/client";
import { useMe, useWhen } from "../api/hooks";
import { ErrorNote, Waiting } from "../parts/notes";

type Device = keyof RatesOf["devices"];
const DEVICES: [Device, string][] = [
  ["clamshell", "Laptops"],
  ["handset", "Phones"],
  ["tablet", "Tablets"],
  ["all_in_one", "All-in-ones"],
];
const percent = (share: number) => `${(100 * share).toFixed(1)} %`;
const CELL = { py: 0.5, px: 1, textAlign: "right", fontVariantNumeric: "tabular-nums", whiteSpace: "nowrap" } as const;

export function Rates() {
  const me = useMe();
  const queries = useQueryClient();
  const when = useWhen();
  const rates = useQuery({ queryKey: ["rates"], queryFn: () => got<RatesOf>(client.GET("/api/rates")) });
  const [device, setDevice] = useState<Device>("clamshell");
  const [asking, setAsking] = useState(false);
  const reset = useMutation({
    mutationFn: () => got<RatesOf>(client.POST("/api/rates/reset")),
    onSuccess: (told) => {
      queries.setQueryData(["rates"], told);
      setAsking(false);
    },
  });
  if (rates.isPending) return <Waiting words="Loading the fault statistics" />;
  if (!rates.data) return <ErrorNote error={rates.error} onRetry={() => void rates.refetch()} />;
  const rows = rates.data.devices[device] ?? [];
  const counted = rows.reduce((sum, row) => sum + row.counted, 0);
  const lead = me.data?.roles.includes("lead");
  return (
    <Box sx={{ p: 2, maxWidth: 820, width: "100%" }}>
      <Typography variant="h2">Fault statistics</Typography>
      <Typography color="textSecondary" sx={{ my: 1 }}>
        How often each cause is the true one, before anything is looked at. What ships weighs as {rates.data.weight}{" "}
        jobs; every closed job that says what it turned out to be adds to it.
        {rates.data.since ? ` Counted since ${when(rates.data.since)}.` : ""}
      </Typography>
      {rates.data.resets.length > 0 && (
        <Box component="details">
          <Box component="summary" sx={{ cursor: "pointer", minHeight: 44, display: "flex", alignItems: "center" }}>
            Begun anew {rates.data.version === 1 ? "once" : `${rates.data.version} times`}
          </Box>
          {rates.data.resets.map((one) => (
            <Typography key={one.version} variant="body2">
              {one.version}: {when(one.at)}, {one.by}
            </Typography>
          ))}
        </Box>
      )}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1.5 }}>
        <ToggleButtonGroup
          exclusive
          size="small"
          value={device}
          aria-label="Device type"
          onChange={(_, to: Device | null) => {
            if (to) setDevice(to);
          }}
        >
          {DEVICES.map(([id, title]) => (
            <ToggleButton key={id} value={id}>
              {title}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Typography variant="body2" color="textSecondary">
          {counted} of the shop&apos;s own jobs
        </Typography>
        {lead && (
          <Button
            onClick={() => {
              setAsking(true);
            }}
          >
            Start counting again
          </Button>
        )}
      </Box>
      {counted === 0 && (
        <Alert severity="info" variant="outlined" sx={{ mb: 1.5 }}>
          Nothing counted yet for this device type: at hand-over, say what a job turned out to be.
        </Alert>
      )}
      <ErrorNote error={reset.error} />
      <Box sx={{ overflowX: "auto" }}>
        <Box
          component="table"
          sx={{ width: "100%", borderCollapse: "collapse", "& tr": { borderTop: 1, borderColor: "divider" } }}
        >
          <thead>
            <tr>
              <Box component="th" scope="col" sx={{ ...CELL, textAlign: "left" }}>
                Cause
              </Box>
              <Box component="th" scope="col" sx={CELL}>
                Shipped
              </Box>
              <Box component="th" scope="col" sx={CELL}>
                Own jobs
              </Box>
              <Box component="th" scope="col" sx={CELL}>
                Now
              </Box>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.cause}>
                <Box
                  component="th"
                  scope="row"
                  sx={{ ...CELL, textAlign: "left", fontWeight: 400, whiteSpace: "normal" }}
                >
                  {row.title}
                </Box>
                <Box component="td" sx={CELL}>
                  {percent(row.shipped)}
                </Box>
                <Box component="td" sx={CELL}>
                  {row.counted || ""}
                </Box>
                <Box component="td" sx={{ ...CELL, fontWeight: 600 }}>
                  {percent(row.now)}
                </Box>
              </tr>
            ))}
          </tbody>
        </Box>
      </Box>
      <Dialog
        open={asking}
        onClose={() => {
          setAsking(false);
        }}
        aria-labelledby="reset-title"
      >
        <DialogTitle id="reset-title">Start counting again?</DialogTitle>
        <DialogContent>
          <Typography>Jobs that closed before today no longer count. They keep what was said of them.</Typography>
        </DialogContent>
        <DialogActions>
          <Button
            onClick={() => {
              setAsking(false);
            }}
          >
            Leave it
          </Button>
          <Button
            variant="contained"
            disabled={reset.isPending}
            onClick={() => {
              reset.mutate();
            }}
          >
            Start anew
          </Button>
        </DialogActions>
      </Dialog>
    </Box>
  );
}
