import { Box, Button, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { useSignIn } from "./api/hooks";
import { ErrorNote } from "./parts/notes";

export function SignIn({ demo }: { demo: boolean }) {
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const signIn = useSignIn();
  return (
    <Box component="main" sx={{ maxWidth: 380, mx: "auto", mt: { xs: 4, sm: 12 }, p: 2 }}>
      <Box component="img" src="/static/icon.svg" alt="" sx={{ width: 56 }} />
      <Typography variant="h1" sx={{ mb: 1 }}>
        Clear Lens
      </Typography>
      <Typography color="textSecondary" sx={{ mb: 2 }}>
        The measuring bench for display repair.
      </Typography>
      <Box
        component="form"
        sx={{ display: "grid", gap: 2 }}
        onSubmit={(event) => {
          event.preventDefault();
          signIn.mutate({ username, password });
        }}
      >
        <TextField
          label="Name"
          autoComplete="username"
          autoFocus
          required
          value={username}
          onChange={(e) => {
            setUsername(e.target.value);
          }}
        />
        <TextField
          label="Password"
          type="password"
          autoComplete="current-password"
          required
          value={password}
          onChange={(e) => {
            setPassword(e.target.value);
          }}
        />
        <Button type="submit" variant="contained" size="large" disabled={signIn.isPending}>
          Sign in
        </Button>
        <ErrorNote error={signIn.error} />
        {demo && (
          <Typography color="textSecondary">
            Demo: <b>bench</b> or <b>lead</b>, password <b>lens-demo</b>.
          </Typography>
        )}
      </Box>
    </Box>
  );
}
