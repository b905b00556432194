// Under what a stage is looked at: said once, kept with the stage. It decides what its photos and its touch may prove.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { client, type Job, type Run } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "./notes";

type Told = Run["conditions"];
type Choice = "film" | "bezel" | "panel" | "hand" | "room";
const CHOICES: Record<Choice, { title: string; options: Record<string, string> }> = {
  film: { title: "Film", options: { on: "Film on", off: "Film off" } },
  bezel: { title: "Bezel", options: { on: "Bezel on", off: "Bezel off" } },
  panel: { title: "Panel", options: { loose: "Panel loose", mounted: "Panel in its place" } },
  hand: { title: "Finger", options: { bare: "Bare finger", glove: "Thin glove", over_film: "Over the film" } },
  room: { title: "Room", options: { dark: "Dark room", dim: "Dim room", bright: "Bright room" } },
};

export function conditionWords(told: Told): string {
  const said = (Object.keys(CHOICES) as Choice[]).flatMap((name) => {
    const value = told[name];
    return value ? [CHOICES[name].options[value] ?? value] : [];
  });
  if (told.mains !== null && told.mains !== undefined) said.push(told.mains ? "On mains" : "On battery");
  if (typeof told.battery_percent === "number") said.push(`${told.battery_percent} % of charge`);
  return said.join(", ");
}

export function StageConditions({ job, run }: { job: Job; run: Run }) {
  const [open, setOpen] = useState(false);
  const [charge, setCharge] = useState<string | null>(null);
  const told = run.conditions;
  const change = useJobChange<Told>(job.id, (body) =>
    client.PUT("/api/runs/{run_id}/conditions", { params: { path: { run_id: run.id } }, body }),
  );
  const words = conditionWords(told);
  const typed = charge ?? (typeof told.battery_percent === "number" ? String(told.battery_percent) : "");
  const percent = /^\d{1,3}$/.test(typed.trim()) && Number(typed) <= 100 ? Number(typed) : null;
  if (job.closed_at && !words) return null;
  return (
    <Box component="section" aria-label="Conditions" sx={{ my: 1 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
        <Typography variant="body2" color="textSecondary">
          Conditions: {words || "not said"}.
        </Typography>
        {!job.closed_at && (
          <Button
            size="small"
            aria-expanded={open}
            onClick={() => {
              setOpen(!open);
            }}
          >
            {open ? "Done" : "Change"}
          </Button>
        )}
      </Box>
      {open && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
          {(Object.keys(CHOICES) as Choice[]).map((name) => (
            <TextField
              key={name}
              select
              size="small"
              label={CHOICES[name].title}
              value={told[name] ?? ""}
              sx={{ width: 150 }}
              onChange={(event) => {
                change.mutate({ ...told, [name]: event.target.value || null });
              }}
            >
              <MenuItem value="">Not said</MenuItem>
              {Object.entries(CHOICES[name].options).map(([id, title]) => (
                <MenuItem key={id} value={id}>
                  {title}
                </MenuItem>
              ))}
            </TextField>
          ))}
          <TextField
            select
            size="small"
            label="Power"
            value={told.mains === true ? "mains" : told.mains === false ? "battery" : ""}
            sx={{ width: 150 }}
            onChange={(event) => {
              const to = event.target.value;
              change.mutate({ ...told, mains: to === "" ? null : to === "mains" });
            }}
          >
            <MenuItem value="">Not said</MenuItem>
            <MenuItem value="mains">On mains</MenuItem>
            <MenuItem value="battery">On battery</MenuItem>
          </TextField>
          <TextField
            size="small"
            label="Charge, %"
            value={typed}
            error={typed.trim() !== "" && percent === null}
            helperText={typed.trim() !== "" && percent === null ? "0 to 100" : undefined}
            sx={{ width: 120 }}
            slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 3 } }}
            onChange={(event) => {
              setCharge(event.target.value);
            }}
            onBlur={() => {
              if (charge !== null && (percent !== null || charge.trim() === "")) {
                change.mutate({ ...told, battery_percent: percent });
                setCharge(null);
              }
            }}
          />
        </Box>
      )}
      <ErrorNote error={change.error} />
    </Box>
  );
}
