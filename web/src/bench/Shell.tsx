import { Alert, Box, Button, Link as MuiLink, Typography } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Mode } from "../theme/theme";
import { client, got, type Me } from "./api/client";
import { Notices } from "./Notices";

interface Props {
  me: Me;
  mode: Mode;
  onMode: (mode: Mode) => void;
  children: React.ReactNode;
}

export function Shell({ me, mode, onMode, children }: Props) {
  const queries = useQueryClient();
  const signOut = async () => {
    queries.setQueryData(["me"], await got<Me>(client.DELETE("/api/session")));
    queries.removeQueries({ queryKey: ["jobs"] });
  };
  return (
    <Box sx={{ minHeight: "100vh", display: "flex", flexDirection: "column" }}>
      <MuiLink
        href="#main"
        sx={{
          position: "absolute",
          left: -9999,
          "&:focus": { left: 8, top: 8, zIndex: 10, bgcolor: "background.paper", p: 1 },
        }}
      >
        To the content
      </MuiLink>
      <Box
        component="header"
        sx={{
          display: "flex",
          alignItems: "center",
          gap: 1,
          px: 2,
          minHeight: 48,
          borderBottom: 1,
          borderColor: "divider",
        }}
      >
        <MuiLink
          component={Link}
          to="/today"
          underline="none"
          color="textPrimary"
          sx={{ display: "flex", alignItems: "center", gap: 1, minHeight: 44 }}
        >
          <Box component="img" src="/static/icon.svg" alt="" sx={{ width: 24, height: 24 }} />
          <Typography component="span" sx={{ fontWeight: 600, whiteSpace: "nowrap" }}>
            Clear Lens
          </Typography>
        </MuiLink>
        <Button component={Link} to="/jobs" color="inherit">
          Jobs
        </Button>
        <Button component={Link} to="/settings" color="inherit" sx={{ display: { xs: "none", sm: "inline-flex" } }}>
          Settings
        </Button>
        <Box sx={{ flex: 1 }} />
        <Button
          color="inherit"
          onClick={() => {
            onMode(mode === "dark" ? "light" : "dark");
          }}
        >
          {mode === "dark" ? "Light" : "Dark"}
        </Button>
        <Typography color="textSecondary" sx={{ display: { xs: "none", sm: "block" } }}>
          {me.name}, {me.roles.join(", ") || "no role"}
        </Typography>
        <Button color="inherit" sx={{ whiteSpace: "nowrap" }} onClick={() => void signOut()}>
          Sign out
        </Button>
      </Box>
      <Notices />
      {me.lan && (
        <Alert severity="warning" variant="outlined" sx={{ borderRadius: 0 }}>
          This bench listens on the local network: everyone there can reach its sign-in page.
        </Alert>
      )}
      <Box component="main" id="main" sx={{ flex: 1, minWidth: 0, display: "flex", flexDirection: "column" }}>
        {children}
      </Box>
    </Box>
  );
}
