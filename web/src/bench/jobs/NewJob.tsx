import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, got, type Job } from "../api/client";
import { useSingle, useVocabulary } from "../api/hooks";
import { ErrorNote } from "../parts/notes";

const SIZES = ["1366x768", "1920x1080", "2560x1600", "1280x800", "1080x2400", "720x1280"];
const words = (id: string) => id.replace(/_/g, " ");

export function NewJob() {
  const vocabulary = useVocabulary();
  const go = useNavigate();
  const [title, setTitle] = useState("");
  const [device, setDevice] = useState("clamshell");
  const [size, setSize] = useState("1366x768");
  const [diagonal, setDiagonal] = useState("");
  const [complaint, setComplaint] = useState("");
  const parts = /^\s*(\d{2,5})\s*[x×]\s*(\d{2,5})\s*$/i.exec(size);
  const create = useSingle(
    useMutation<Job>({
      mutationFn: () =>
        got<Job>(
          client.POST("/api/jobs", {
            body: {
              title,
              device_type: device,
              complaint,
              owner: "",
              visible_damage: "",
              accessories: "",
              profile: "class-II",
              build: "ears",
              panel_width: Number(parts?.[1] ?? 0),
              panel_height: Number(parts?.[2] ?? 0),
              diagonal_in: diagonal ? Number(diagonal.replace(",", ".")) : null,
            },
          }),
        ),
      onSuccess: (job) => {
        void go(`/jobs/${job.id}/intake`, { replace: true });
      },
    }),
  );
  return (
    <Box
      component="form"
      sx={{ p: 2, maxWidth: 640, display: "grid", gap: 2 }}
      onSubmit={(event) => {
        event.preventDefault();
        create.mutate();
      }}
    >
      <Typography variant="h1">Take in a device</Typography>
      <TextField
        label="Device"
        helperText="What it is and where it stands"
        required
        autoFocus
        value={title}
        slotProps={{ htmlInput: { maxLength: 120 } }}
        onChange={(e) => {
          setTitle(e.target.value);
        }}
      />
      <TextField
        label="Complaint, in the owner's words"
        multiline
        minRows={2}
        value={complaint}
        slotProps={{ htmlInput: { maxLength: 2000 } }}
        onChange={(e) => {
          setComplaint(e.target.value);
        }}
      />
      <TextField
        select
        label="Kind of device"
        value={device}
        onChange={(e) => {
          setDevice(e.target.value);
        }}
      >
        {(vocabulary.data?.devices ?? ["clamshell"]).map((id) => (
          <MenuItem key={id} value={id}>
            {words(id)}
          </MenuItem>
        ))}
      </TextField>
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" }, gap: 2 }}>
        <TextField
          label="Panel resolution"
          required
          value={size}
          error={!parts}
          helperText={parts ? "Native pixels, width x height" : "Give it as 1920x1080"}
          onChange={(e) => {
            setSize(e.target.value);
          }}
          slotProps={{ htmlInput: { list: "sizes" } }}
        />
        <TextField
          label="Visible diagonal (in)"
          inputMode="decimal"
          value={diagonal}
          helperText="Leave empty when unknown"
          onChange={(e) => {
            setDiagonal(e.target.value);
          }}
        />
        <datalist id="sizes">
          {SIZES.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
      </Box>
      <ErrorNote error={create.error} />
      <Box>
        <Button type="submit" variant="contained" disabled={create.isPending || !parts || !title.trim()}>
          Open the job
        </Button>
      </Box>
    </Box>
  );
}
