import { Alert, Box, Button, Link as MuiLink, Typography } from "@mui/material";
import { Link, useLocation } from "react-router";
import { useMode } from "../theme/mode";
import type { Me } from "./api/client";
import { useSignOut } from "./api/hooks";
import { ClockBar } from "./fit/ClockBar";
import { KeyHelp } from "./keys/KeyHelp";
import { Notices } from "./Notices";

const PAGES = [
  ["/today", "Today"],
  ["/jobs", "Jobs"],
  ["/parts", "Parts"],
  ["/settings", "Settings"],
] as const;

interface Props {
  me: Me;
  children: React.ReactNode;
}

export function Shell({ me, children }: Props) {
  const { mode, choose } = useMode();
  const at = useLocation().pathname;
  const signOut = useSignOut();
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
          aria-label="Clear Lens, today"
          underline="none"
          color="textPrimary"
          sx={{ display: "flex", alignItems: "center", gap: 1, minHeight: 44 }}
        >
          <Box component="img" src="/static/icon.svg" alt="" sx={{ width: 24, height: 24 }} />
          <Typography
            component="span"
            sx={{ fontWeight: 600, whiteSpace: "nowrap", display: { xs: "none", sm: "inline" } }}
          >
            Clear Lens
          </Typography>
        </MuiLink>
        {PAGES.map(([path, title]) => (
          <Button
            key={path}
            component={Link}
            to={path}
            color="inherit"
            aria-current={at.startsWith(path) ? "page" : undefined}
            sx={{
              px: { xs: 1, sm: 1.5 },
              minWidth: 0,
              borderRadius: 0,
              borderBottom: 2,
              borderColor: at.startsWith(path) ? "primary.main" : "transparent",
            }}
          >
            {title}
          </Button>
        ))}
        <Box sx={{ flex: 1 }} />
        <KeyHelp />
        <Button
          color="inherit"
          sx={{ display: { xs: "none", sm: "inline-flex" } }}
          onClick={() => {
            choose(mode === "dark" ? "light" : "dark");
          }}
        >
          {mode === "dark" ? "Light" : "Dark"}
        </Button>
        <Typography color="textSecondary" sx={{ display: { xs: "none", sm: "block" } }}>
          {me.name}, {me.roles.join(", ") || "no role"}
        </Typography>
        <Button
          color="inherit"
          sx={{ whiteSpace: "nowrap", display: { xs: "none", sm: "inline-flex" } }}
          onClick={signOut}
        >
          Sign out
        </Button>
      </Box>
      {me.lan && (
        <Alert severity="warning" variant="outlined" sx={{ borderRadius: 0 }}>
          This bench listens on the local network: everyone there can reach its sign-in page.
        </Alert>
      )}
      <ClockBar />
      <Box component="main" id="main" sx={{ flex: 1, minWidth: 0, display: "flex", flexDirection: "column" }}>
        {children}
      </Box>
      {/* under the page, so that nothing moves from under a finger when one comes */}
      <Box sx={{ position: "sticky", bottom: 0, zIndex: 5, bgcolor: "background.default" }}>
        <Notices />
      </Box>
    </Box>
  );
}
