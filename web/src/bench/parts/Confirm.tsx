// A question before something that others will notice, with a reason where the record should have one.

import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField, Typography } from "@mui/material";
import { useState } from "react";

interface Props {
  title: string;
  text: string;
  action: string;
  /** Label of the reason's field; without one no reason is asked for. */
  reason?: string;
  onConfirm: (reason: string) => void;
  onClose: () => void;
}

export function Confirm({ title, text, action, reason, onConfirm, onClose }: Props) {
  const [why, setWhy] = useState("");
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-labelledby="confirm-title">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          onConfirm(why.trim());
          onClose();
        }}
      >
        <DialogTitle id="confirm-title">{title}</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          <Typography>{text}</Typography>
          {reason && (
            <TextField
              autoFocus
              required
              label={reason}
              value={why}
              slotProps={{ htmlInput: { maxLength: 300 } }}
              onChange={(event) => {
                setWhy(event.target.value);
              }}
            />
          )}
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" autoFocus={!reason} disabled={Boolean(reason) && !why.trim()}>
            {action}
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
