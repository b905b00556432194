// What is one's own: the theme of this machine, the password, and leaving.

import { Box, Button, TextField, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useMode } from "../../theme/mode";
import type { Mode } from "../../theme/theme";
import { client, got } from "../api/client";
import { useSignOut } from "../api/hooks";
import { ErrorNote } from "../parts/notes";

export function Mine() {
  const { mode, choose } = useMode();
  const signOut = useSignOut();
  return (
    <Box sx={{ p: 2 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", mb: 3 }}>
        <ToggleButtonGroup
          exclusive
          value={mode}
          aria-label="Theme of this machine"
          onChange={(_, next: Mode | null) => {
            if (next) choose(next);
          }}
        >
          <ToggleButton value="dark">Dark, for the bench</ToggleButton>
          <ToggleButton value="light">Light, for the desk</ToggleButton>
        </ToggleButtonGroup>
        <Button variant="outlined" onClick={signOut}>
          Sign out
        </Button>
      </Box>
      <Typography variant="h2" sx={{ mb: 2 }}>
        My password
      </Typography>
      <OwnPassword />
    </Box>
  );
}

function OwnPassword() {
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
      sx={{ maxWidth: 420, display: "grid", gap: 2 }}
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
