// Which device of the register it is: by any name on its labels; what is easily taken for it is said at once.

import { Autocomplete, Box, Button, TextField, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Device, type Job } from "../api/client";
import { useMatchChanges, useMatchState } from "../match/useMatch";
import { ErrorNote } from "../parts/notes";
import { DeviceDialog } from "../registers/DeviceDialog";
import { deviceBriefly, useDeviceLook, useDevices } from "../registers/Devices";

const SHOWN = 2;

export function DevicePick({
  value,
  title,
  disabled = false,
  onChange,
}: {
  value: Device | null;
  /** What the job is called: the first guess for a new device's name. */
  title: string;
  disabled?: boolean;
  onChange: (device: Device | null) => void;
}) {
  const [words, setWords] = useState("");
  const [adding, setAdding] = useState(false);
  const devices = useDevices(words);
  const look = useDeviceLook(value?.id ?? null);
  return (
    <Box>
      <Autocomplete
        options={devices.data ?? []}
        value={value}
        disabled={disabled}
        filterOptions={(all) => all}
        getOptionLabel={(device) => device.title}
        getOptionKey={(device) => device.id}
        isOptionEqualToValue={(one, two) => one.id === two.id}
        noOptionsText="No device of the register has this name."
        onInputChange={(_, text, reason) => {
          if (reason === "input") setWords(text);
        }}
        onChange={(_, device) => {
          onChange(device);
        }}
        renderOption={({ key, ...rest }, device) => (
          <li key={key} {...rest}>
            <Box>
              <Typography>{device.title}</Typography>
              <Typography variant="body2" color="textSecondary">
                {deviceBriefly(device)}
              </Typography>
            </Box>
          </li>
        )}
        renderInput={(params) => (
          <TextField {...params} label="Model, from the register" helperText="Any name on its labels" />
        )}
      />
      {look.data?.alike.slice(0, SHOWN).map((one) => (
        <Typography key={one.device.id} variant="body2" color="warning">
          Easily taken for {one.device.title}: {one.why}
        </Typography>
      ))}
      {(look.data?.alike.length ?? 0) > 0 && (
        <Typography variant="body2">
          Check the label
          {(look.data?.alike.length ?? 0) > SHOWN
            ? `: ${(look.data?.alike.length ?? 0) - SHOWN} more have nearly this name.`
            : "."}
        </Typography>
      )}
      {!disabled && !value && (
        <Button
          size="small"
          onClick={() => {
            setAdding(true);
          }}
        >
          Add this model to the register
        </Button>
      )}
      {adding && (
        <DeviceDialog
          start={{ names: [words || title].filter(Boolean) }}
          onSaved={(device) => {
            setAdding(false);
            onChange(device);
          }}
          onClose={() => {
            setAdding(false);
          }}
        />
      )}
    </Box>
  );
}

/** The same for a job that is open. */
export function DeviceOfJob({ job }: { job: Job }) {
  const state = useMatchState(job.id);
  const { device, taken } = useMatchChanges(job.id);
  const id = state.data?.device_id ?? null;
  const known = useQuery({
    queryKey: ["devices", "one", id],
    enabled: id !== null,
    queryFn: () =>
      got<{ device: Device }>(client.GET("/api/devices/{device_id}", { params: { path: { device_id: id ?? 0 } } })),
  });
  return (
    <>
      <DevicePick
        value={known.data?.device ?? null}
        title={job.title}
        disabled={Boolean(job.closed_at)}
        onChange={(chosen) => {
          if (chosen) device.mutate(chosen.id, { onSuccess: taken });
        }}
      />
      <ErrorNote error={device.error} />
    </>
  );
}
