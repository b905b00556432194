// One's own password.

import { Box, Button, TextField, Typography } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, got } from "../api/client";
import { ErrorNote } from "../parts/notes";

export function OwnPassword() {
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const [again, setAgain] = useState("");
  const change = useMutation({
    mutationFn: () => got(client.POST("/api/me/password", { body: { old, new: fresh } })),
    onSuccess: () => {
      setOld("");
      setFresh("");
      setAgain("");
    },
  });
  const differs = again !== "" && again !== fresh;
  const fields = [
    ["Password now", "current-password", old, setOld],
    ["New password", "new-password", fresh, setFresh],
    ["New password again", "new-password", again, setAgain],
  ] as const;
  return (
    <Box
      component="form"
      aria-label="My password"
      sx={{ p: 2, maxWidth: 420, display: "grid", gap: 2 }}
      onSubmit={(event: { preventDefault: () => void }) => {
        event.preventDefault();
        change.mutate();
      }}
    >
      {fields.map(([label, complete, value, set], index) => (
        <TextField
          key={label}
          label={label}
          type="password"
          required
          autoComplete={complete}
          value={value}
          error={index === 2 && differs}
          helperText={index === 2 && differs ? "This is not the same as above" : " "}
          slotProps={{ htmlInput: { maxLength: 200 } }}
          onChange={(event) => {
            set(event.target.value);
          }}
        />
      ))}
      <ErrorNote error={change.error} />
      <Box>
        <Button type="submit" variant="contained" disabled={change.isPending || !old || !fresh || again !== fresh}>
          Change the password
        </Button>
      </Box>
      <Typography role="status" variant="body2" color="textSecondary">
        {change.isSuccess ? "Changed. Everywhere else you are signed out now." : ""}
      </Typography>
    </Box>
  );
}
