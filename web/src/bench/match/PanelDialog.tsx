// A panel of the register: entered as far as it is known, from a photo, a pasted line or by hand; mended later.

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
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { VALUE_SOURCES } from "../../pane/vocabulary.gen";
import { client, got, type DataSheetLine, type Panel, type PanelSource } from "../api/client";
import { ErrorNote } from "../parts/notes";
import { BackPhoto } from "./BackPhoto";
import { MakerField } from "./MakerField";
import { fieldsOfLine, fillIn, SPEC_FIELDS, specOf, textsOf, type Spec, type Texts } from "./specFields";

export interface PanelEntry {
  name: string;
  maker: string;
  spec: Spec;
  filled_from: Record<string, PanelSource>;
}
export interface PanelStart {
  name: string;
  maker: string;
  spec: Partial<Spec>;
  sources?: Panel["sources"];
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
  start: PanelStart;
  action: string;
  busy: boolean;
  error: Error | null;
  onSave: (panel: PanelEntry) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState(start.name);
  const [maker, setMaker] = useState(start.maker);
  const [texts, setTexts] = useState(() => textsOf(start.spec));
  const [from, setFrom] = useState<Partial<Record<string, PanelSource>>>(() =>
    Object.fromEntries(Object.entries(start.sources ?? {}).map(([field, told]) => [field, told.source])),
  );
  const [kept, setKept] = useState<string[]>([]);
  const [filled, setFilled] = useState<ReadonlySet<string>>(new Set());
  const [line, setLine] = useState("");
  const { spec, wrong } = specOf(texts);
  const fill = (told: Texts, source: PanelSource) => {
    const next = fillIn(texts, from, told, source);
    setTexts(next.texts);
    setFrom(next.from);
    setKept(next.kept);
    setFilled(new Set([...filled, ...Object.keys(told).filter((field) => next.texts[field] !== texts[field])]));
  };
  const read = useMutation({
    mutationFn: (text: string) => got<DataSheetLine>(client.POST("/api/panels/read-line", { body: { text } })),
    onSuccess: (told) => {
      fill(fieldsOfLine(told), "supplier");
    },
  });
  const named = Object.fromEntries(Object.entries(from).filter(([field]) => texts[field])) as Record<
    string,
    PanelSource
  >;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          if (!wrong.length) onSave({ name, maker, spec, filled_from: named });
        }}
      >
        <DialogTitle>{title}</DialogTitle>
        <DialogContent>
          <Typography variant="body2" color="textSecondary" sx={{ mb: 2 }}>
            Enter what is known; an empty field is unknown, and is asked for where it decides.
          </Typography>
          <BackPhoto
            onRead={(told) => {
              fill(told, "measured");
            }}
          />
          <Box sx={{ display: "flex", gap: 1, alignItems: "flex-start" }}>
            <TextField
              label="Paste a line of its data sheet or of an offer"
              fullWidth
              value={line}
              slotProps={{ htmlInput: { maxLength: 2000 } }}
              onChange={(event) => {
                setLine(event.target.value);
              }}
              onKeyDown={(event) => {
                if (event.key !== "Enter") return;
                event.preventDefault();
                if (line.trim()) read.mutate(line);
              }}
            />
            <Button
              variant="outlined"
              sx={{ minHeight: 40, whiteSpace: "nowrap" }}
              disabled={!line.trim() || read.isPending}
              onClick={() => {
                read.mutate(line);
              }}
            >
              Fill in
            </Button>
          </Box>
          <Box role="status">
            {read.data?.problems.map((problem) => (
              <Typography key={problem.code} variant="body2" color="warning" sx={{ mt: 0.5 }}>
                {problem.message}
              </Typography>
            ))}
            {kept.length > 0 && (
              <Typography variant="body2" sx={{ mt: 0.5 }}>
                Left as it is, its source is stronger: {kept.join(", ")}.
              </Typography>
            )}
          </Box>
          <ErrorNote error={read.error} />
          <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr 1fr", md: "1fr 1fr 1fr" }, gap: 1.5, pt: 2 }}>
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
            <MakerField value={maker} onChange={setMaker} />
            {SPEC_FIELDS.map((field) => {
              const source = texts[field.name] ? from[field.name] : undefined;
              const worthTelling =
                source && (filled.has(field.name) || VALUE_SOURCES[source].strength > VALUE_SOURCES.typed.strength);
              return (
                <TextField
                  key={field.name}
                  select={Boolean(field.choices)}
                  label={field.label}
                  value={texts[field.name] ?? ""}
                  error={wrong.includes(field.label)}
                  helperText={worthTelling ? VALUE_SOURCES[source].title : undefined}
                  slotProps={{
                    htmlInput: {
                      maxLength: field.kind === "list" ? 400 : 60,
                      inputMode: field.kind === "number" ? "decimal" : undefined,
                    },
                  }}
                  onChange={(event) => {
                    setTexts({ ...texts, [field.name]: event.target.value });
                    setFrom({ ...from, [field.name]: "typed" });
                    setFilled(new Set([...filled].filter((name) => name !== field.name)));
                  }}
                >
                  {field.choices && <MenuItem value="">Unknown</MenuItem>}
                  {field.choices?.map(([id, words]) => (
                    <MenuItem key={id} value={id}>
                      {words}
                    </MenuItem>
                  ))}
                </TextField>
              );
            })}
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
