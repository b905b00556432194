// Which photo is looked at, as what, and what it is held against.

import { Box, Button, MenuItem, TextField, ToggleButton, ToggleButtonGroup } from "@mui/material";
import { Link } from "react-router";
import { STATIONS } from "../../pane/vocabulary.gen";
import type { Job } from "../api/client";
import { alike, type LookedAt } from "./choices";
import type { Address, How } from "./useAddress";
import type { PhotoView } from "./useRectified";

/** The station at which photos of this stage are taken, to go back to. */
function stationOf(job: Job, one: LookedAt) {
  const stage = one.run.stage;
  return job.stations.find(({ id }) => id !== "intake" && STATIONS[id].stage === stage)?.id ?? job.station;
}

export function LookChoices({
  job,
  all,
  against,
  main,
  address,
  onPhoto,
}: {
  job: Job;
  all: LookedAt[];
  against: LookedAt[];
  main: LookedAt;
  address: Address;
  onPhoto: (photoId: number) => void;
}) {
  const { pictured, other, how, change } = address;
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
      <Button component={Link} to={`/jobs/${job.id}/${stationOf(job, main)}`}>
        Back to job {job.id}
      </Button>
      <TextField
        select
        size="small"
        label="Photo"
        value={main.photo.id}
        onChange={(event) => {
          onPhoto(Number(event.target.value));
        }}
        sx={{ width: 210 }}
      >
        {all.map((one) => (
          <MenuItem key={one.photo.id} value={one.photo.id}>
            {one.name}
          </MenuItem>
        ))}
      </TextField>
      <ToggleButtonGroup
        exclusive
        size="small"
        value={pictured}
        aria-label="What is shown"
        onChange={(_, value: PhotoView | null) => {
          if (value) change({ view: value === "photo" ? null : value });
        }}
      >
        <ToggleButton value="photo">Photo</ToggleButton>
        <ToggleButton value="difference">Difference</ToggleButton>
      </ToggleButtonGroup>
      <TextField
        select
        size="small"
        label="Held against"
        value={other?.photo.id ?? ""}
        onChange={(event) => {
          change({ with: event.target.value === "" ? null : event.target.value });
        }}
        sx={{ width: 210 }}
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      >
        <MenuItem value="">nothing</MenuItem>
        {against
          .filter((one) => alike(one, main))
          .map((one) => (
            <MenuItem key={one.photo.id} value={one.photo.id}>
              {one.name}
            </MenuItem>
          ))}
      </TextField>
      {other && (
        <ToggleButtonGroup
          exclusive
          size="small"
          value={how}
          aria-label="How they are held against each other"
          onChange={(_, value: How | null) => {
            if (value) change({ how: value === "side" ? null : value });
          }}
        >
          <ToggleButton value="side">Side by side</ToggleButton>
          <ToggleButton value="swipe">Swipe</ToggleButton>
        </ToggleButtonGroup>
      )}
    </Box>
  );
}
