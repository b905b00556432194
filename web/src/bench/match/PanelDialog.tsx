// A panel of the register: entered as far as it is known, mended later.

import {
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  MenuItem,
  TextField,
  Typography,
} from "@mui/material";
import { useState } from "react";
import { ErrorNote } from "../parts/notes";
import { BackPhoto } from "./BackPhoto";
import { SPEC_FIELDS, specOf, textsOf, type Spec } from "./specFields";

export interface PanelEntry {
  name: string;
  maker: string;
  spec: Partial<Spec>;
}

export function PanelDialog({
  title,
  start,
  action,
  busy,
  error,
  onSave,
  onClose,
}: {
  title: string;
  start: PanelEntry;
  action: string;
  busy: boolean;
  error: Error | null;
  onSave: (panel: PanelEntry) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState(start.name);
  const [maker, setMaker] = useState(start.maker);
  const [texts, setTexts] = useState(() => textsOf(start.spec));
  const { spec, wrong } = specOf(texts);
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          if (!wrong.length) onSave({ name, maker, spec });
        }}
      >
        <DialogTitle>{title}</DialogTitle>
        <DialogContent>
          <Typography variant="body2" color="textSecondary" sx={{ mb: 2 }}>
            Enter what is known; an empty field is unknown, and is asked for where it decides.
          </Typography>
          <BackPhoto
            onRead={(told) => {
              setTexts({ ...texts, ...told });
            }}
          />
          <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr 1fr", md: "1fr 1fr 1fr" }, gap: 1.5, pt: 1 }}>
            <TextField
              label="Part number on the label"
              required
              autoFocus
              value={name}
              slotProps={{ htmlInput: { maxLength: 80 } }}
              onChange={(event) => {
                setName(event.target.value);
              }}
            />
            <TextField
              label="Maker"
              value={maker}
              slotProps={{ htmlInput: { maxLength: 80 } }}
              onChange={(event) => {
                setMaker(event.target.value);
              }}
            />
            {SPEC_FIELDS.map((field) => (
              <TextField
                key={field.name}
                select={field.kind === "choice"}
                label={field.label}
                value={texts[field.name] ?? ""}
                error={wrong.includes(field.label)}
                slotProps={{ htmlInput: { maxLength: 60, inputMode: field.kind === "number" ? "decimal" : undefined } }}
                onChange={(event) => {
                  setTexts({ ...texts, [field.name]: event.target.value });
                }}
              >
                {field.choices && <MenuItem value="">Unknown</MenuItem>}
                {field.choices?.map(([id, words]) => (
                  <MenuItem key={id} value={id}>
                    {words}
                  </MenuItem>
                ))}
              </TextField>
            ))}
          </Box>
          <ErrorNote error={error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={busy || !name.trim() || wrong.length > 0}>
            {action}
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
