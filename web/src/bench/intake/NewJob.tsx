// A device comes in: the intake's own form, stored as a job when it is opened.

import { Box, Button, Typography } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { client, got, type Device, type JobHead } from "../api/client";
import { useShop, useSingle, useVocabulary } from "../api/hooks";
import { ErrorNote } from "../parts/notes";
import { DevicePick } from "./DevicePick";
import { DeviceFields, type FieldName } from "./DeviceFields";
import { Reported, type Reports } from "./Reported";

const EMPTY: Record<FieldName, string> = {
  title: "",
  owner: "",
  complaint: "",
  visible_damage: "",
  accessories: "",
  start_consent: "",
  serial_printed: "",
  serial_system: "",
  device_type: "clamshell",
  panel_width: "1366",
  panel_height: "768",
  diagonal_in: "",
  profile: "",
};
const NUMBERS = /^\d{2,5}$/;
const KEPT = "clear-lens-intake";

/** What was typed before the page was reloaded or left. */
function kept(): typeof EMPTY {
  try {
    return { ...EMPTY, ...(JSON.parse(sessionStorage.getItem(KEPT) ?? "{}") as Partial<typeof EMPTY>) };
  } catch {
    return EMPTY;
  }
}

export function NewJob() {
  const vocabulary = useVocabulary();
  const shop = useShop();
  const go = useNavigate();
  const [draft, setDraft] = useState(kept);
  useEffect(() => {
    sessionStorage.setItem(KEPT, JSON.stringify(draft));
  }, [draft]);
  const [device, setDevice] = useState<Device | null>(null);
  const [reports, setReports] = useState<Reports>({});
  const profile = draft.profile || (shop.data?.profile ?? "class-II");
  const wrong = (name: FieldName): string | undefined => {
    if ((name === "panel_width" || name === "panel_height") && !NUMBERS.test(draft[name].trim()))
      return "A number of pixels";
    if (name === "diagonal_in" && draft[name] && !(Number(draft[name].replace(",", ".")) > 0)) return "In inches";
    return undefined;
  };
  const ready = draft.title.trim() !== "" && !(["panel_width", "panel_height", "diagonal_in"] as const).some(wrong);
  const create = useSingle(
    useMutation<JobHead>({
      mutationFn: async () => {
        const { diagonal_in, panel_width, panel_height, start_consent, ...words } = draft;
        const job = await got<JobHead>(
          client.POST("/api/jobs", {
            body: {
              ...words,
              start_consent: start_consent as JobHead["start_consent"],
              profile,
              build: device?.build ?? "",
              panel_width: Number(panel_width),
              panel_height: Number(panel_height),
              diagonal_in: diagonal_in ? Number(diagonal_in.replace(",", ".")) : null,
            },
          }),
        );
        if (device)
          await client
            .POST("/api/jobs/{job_id}/device", {
              params: { path: { job_id: job.id } },
              body: { device_id: device.id },
            })
            .catch(() => undefined);
        // the job is there: what could not be ticked is seen, and ticked again, at its intake
        for (const [check, outcome] of Object.entries(reports))
          await client
            .POST("/api/jobs/{job_id}/evidence", {
              params: { path: { job_id: job.id } },
              body: { check, outcome, source: "told" },
            })
            .catch(() => undefined);
        return job;
      },
      onSuccess: (job) => {
        sessionStorage.removeItem(KEPT);
        void go(`/jobs/${job.id}/intake`, { replace: true });
      },
    }),
  );
  return (
    <Box
      component="form"
      sx={{ p: 2, maxWidth: 640, width: "100%", mx: "auto", display: "grid", gap: 2 }}
      onSubmit={(event) => {
        event.preventDefault();
        if (ready) create.mutate();
      }}
    >
      <Typography variant="h1">Take in a device</Typography>
      <DeviceFields
        fresh
        register={
          <DevicePick
            value={device}
            title={draft.title}
            onChange={(chosen) => {
              setDevice(chosen);
              if (chosen)
                setDraft({
                  ...draft,
                  title: draft.title || chosen.title.slice(0, 120),
                  device_type: chosen.kind,
                  panel_width: String(chosen.panel_width ?? draft.panel_width),
                  panel_height: String(chosen.panel_height ?? draft.panel_height),
                  diagonal_in: chosen.diagonal_in ? String(chosen.diagonal_in) : draft.diagonal_in,
                });
            }}
          />
        }
        of={(name) => ({
          value: name === "profile" ? profile : draft[name],
          ...(wrong(name) && { error: true, helperText: wrong(name) }),
          onChange: (event) => {
            setDraft({ ...draft, [name]: event.target.value });
          },
        })}
        reported={
          vocabulary.data && (
            <Reported
              vocabulary={vocabulary.data}
              device={draft.device_type}
              reports={reports}
              onReport={(check, outcome) => {
                const rest = Object.fromEntries(Object.entries(reports).filter(([id]) => id !== check));
                setReports(outcome ? { ...rest, [check]: outcome } : rest);
              }}
            />
          )
        }
      />
      <ErrorNote error={create.error} />
      <Box sx={{ position: "sticky", bottom: 0, py: 1, bgcolor: "background.default", zIndex: 1 }}>
        <Button type="submit" variant="contained" disabled={create.isPending || !ready}>
          Open the job
        </Button>
      </Box>
    </Box>
  );
}
