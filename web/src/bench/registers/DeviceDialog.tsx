// A device of the register: every name on its labels, since two names on one label are common.

import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, MenuItem, TextField } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Device } from "../api/client";
import { useVocabulary } from "../api/hooks";
import { MakerField } from "../match/MakerField";
import { ErrorNote } from "../parts/notes";
import { DEVICE_WORDS } from "../words";

export type DeviceStart = Partial<Omit<Device, "id" | "title">> & { id?: number };

export function DeviceDialog({
  start,
  onSaved,
  onClose,
}: {
  start: DeviceStart;
  onSaved: (device: Device) => void;
  onClose: () => void;
}) {
  const queries = useQueryClient();
  const vocabulary = useVocabulary();
  const [kind, setKind] = useState(start.kind ?? "clamshell");
  const [texts, setTexts] = useState({
    names: (start.names ?? []).join("\n"),
    maker: start.maker ?? "",
    generation: start.generation ?? "",
    diagonal_in: start.diagonal_in ? String(start.diagonal_in) : "",
    panel_width: start.panel_width ? String(start.panel_width) : "",
    panel_height: start.panel_height ? String(start.panel_height) : "",
  });
  const number = (text: string) => (text.trim() ? Number(text.trim().replace(",", ".")) : null);
  const names = texts.names
    .split(/[\n,;]/)
    .map((name) => name.trim())
    .filter(Boolean);
  const figures = [texts.diagonal_in, texts.panel_width, texts.panel_height].map(number);
  const ready = names.length > 0 && figures.every((figure) => figure === null || figure > 0);
  const save = useMutation({
    mutationFn: () => {
      const body = {
        kind,
        names,
        maker: texts.maker,
        generation: texts.generation,
        diagonal_in: number(texts.diagonal_in),
        panel_width: number(texts.panel_width),
        panel_height: number(texts.panel_height),
        build: start.build ?? "",
        version: start.version ?? 0,
      };
      return start.id
        ? got<Device>(client.PATCH("/api/devices/{device_id}", { params: { path: { device_id: start.id } }, body }))
        : got<Device>(client.POST("/api/devices", { body }));
    },
    onSuccess: (device) => {
      void queries.invalidateQueries({ queryKey: ["devices"] });
      onSaved(device);
    },
  });
  const field = (name: keyof typeof texts, most = 80) => ({
    value: texts[name],
    slotProps: { htmlInput: { maxLength: most } },
    onChange: (event: { target: { value: string } }) => {
      setTexts({ ...texts, [name]: event.target.value });
    },
  });
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void; stopPropagation: () => void }) => {
          event.preventDefault();
          event.stopPropagation();
          if (ready) save.mutate();
        }}
      >
        <DialogTitle>{start.id ? "Device" : "Add a device"}</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 1.5 }}>
          <TextField
            label="Names on its labels, one a line"
            required
            autoFocus
            multiline
            minRows={2}
            sx={{ mt: 1 }}
            helperText="All of them: the name on the lid, the one on the base, the one in the system"
            {...field("names", 900)}
          />
          <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1.5 }}>
            <TextField
              select
              label="Kind"
              value={kind}
              onChange={(event) => {
                setKind(event.target.value);
              }}
            >
              {(vocabulary.data?.devices ?? [kind]).map((id) => (
                <MenuItem key={id} value={id}>
                  {DEVICE_WORDS[id] ?? id}
                </MenuItem>
              ))}
            </TextField>
            <MakerField
              value={texts.maker}
              onChange={(maker) => {
                setTexts({ ...texts, maker });
              }}
            />
            <TextField label="Generation" {...field("generation", 40)} />
            <TextField label="Diagonal (in)" inputMode="decimal" {...field("diagonal_in", 6)} />
            <TextField label="Panel width (px)" inputMode="numeric" {...field("panel_width", 5)} />
            <TextField label="Height (px)" inputMode="numeric" {...field("panel_height", 5)} />
          </Box>
          <ErrorNote error={save.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!ready || save.isPending}>
            Save
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
