// What beginnings of part numbers tell: the shop's own table, shown at Match with every panel whose number begins so.

import {
  Box,
  Button,
  ButtonBase,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  TextField,
  Typography,
} from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type LabelCode } from "../api/client";
import { Empty, ErrorNote, Waiting } from "../parts/notes";

const FIELDS = [
  ["code", "The number begins with", 20, ""],
  ["maker", "Maker", 80, ""],
  ["controller", "Controller", 80, "Its kind, and where it sits"],
  ["trouble", "Known trouble", 300, "What the shop has met more than once"],
] as const;

function CodeDialog({ start, onClose }: { start: LabelCode | null; onClose: () => void }) {
  const queries = useQueryClient();
  const [texts, setTexts] = useState({
    code: start?.code ?? "",
    maker: start?.maker ?? "",
    controller: start?.controller ?? "",
    trouble: start?.trouble ?? "",
  });
  const done = () => {
    void queries.invalidateQueries({ queryKey: ["label-codes"] });
    onClose();
  };
  const save = useMutation({
    mutationFn: () => {
      const body = { ...texts, version: start?.version ?? 0 };
      return start
        ? got(client.PATCH("/api/label-codes/{code_id}", { params: { path: { code_id: start.id } }, body }))
        : got(client.POST("/api/label-codes", { body }));
    },
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: (code_id: number) =>
      got(client.DELETE("/api/label-codes/{code_id}", { params: { path: { code_id } } })),
    onSuccess: done,
  });
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <DialogTitle>{start ? `${start.code}...` : "Add a code"}</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 1.5 }}>
          {FIELDS.map(([name, label, maxLength, help], place) => (
            <TextField
              key={name}
              label={label}
              helperText={help}
              required={place === 0}
              autoFocus={place === 0}
              multiline={name === "trouble"}
              sx={place === 0 ? { mt: 1 } : undefined}
              value={texts[name]}
              slotProps={{ htmlInput: { maxLength } }}
              onChange={(event) => {
                setTexts({ ...texts, [name]: event.target.value });
              }}
            />
          ))}
          <ErrorNote error={save.error ?? remove.error} />
        </DialogContent>
        <DialogActions>
          {start && (
            <Button
              color="inherit"
              sx={{ mr: "auto" }}
              onClick={() => {
                remove.mutate(start.id);
              }}
            >
              Take it out
            </Button>
          )}
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!texts.code.trim() || save.isPending}>
            Save
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}

export function Codes() {
  const codes = useQuery({
    queryKey: ["label-codes"],
    queryFn: () => got<LabelCode[]>(client.GET("/api/label-codes")),
  });
  const [edited, setEdited] = useState<LabelCode | "new" | null>(null);
  return (
    <Box>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", p: 2 }}>
        <Typography variant="h1" sx={{ mr: "auto" }}>
          Label codes
        </Typography>
        <Button
          variant="contained"
          onClick={() => {
            setEdited("new");
          }}
        >
          Add a code
        </Button>
      </Box>
      {codes.isPending && <Waiting words="Loading the codes" />}
      <ErrorNote error={codes.error} onRetry={() => void codes.refetch()} />
      {codes.data?.length === 0 && (
        <Box sx={{ px: 2 }}>
          <Empty>
            Nothing yet. Write down what the beginning of a part number tells you: who made it, its controller, what it
            is known for. It is shown at Match.
          </Empty>
        </Box>
      )}
      {codes.data?.map((code) => (
        <ButtonBase
          key={code.id}
          onClick={() => {
            setEdited(code);
          }}
          sx={{
            width: "100%",
            justifyContent: "flex-start",
            flexWrap: "wrap",
            columnGap: 2,
            textAlign: "left",
            borderTop: 1,
            borderColor: "divider",
            px: 2,
            py: 1,
            minHeight: 48,
          }}
        >
          <Typography sx={{ fontWeight: 600, minWidth: 90 }}>{code.code}...</Typography>
          <Typography variant="body2" color="textSecondary">
            {[code.maker, code.controller, code.trouble && `known for: ${code.trouble}`].filter(Boolean).join(", ")}
          </Typography>
        </ButtonBase>
      ))}
      {edited && (
        <CodeDialog
          start={edited === "new" ? null : edited}
          onClose={() => {
            setEdited(null);
          }}
        />
      )}
    </Box>
  );
}
