// What the shop decides once, in one place: itself, its people, what it accepts, its rules, its rates; and what is one's own.

import { Box, Tab, Tabs, Typography } from "@mui/material";
import { Link, Outlet, useLocation } from "react-router";

const PARTS = [
  ["shop", "Shop"],
  ["people", "People"],
  ["acceptance", "Acceptance"],
  ["rules", "House rules"],
  ["procedures", "Procedures"],
  ["rates", "Fault statistics"],
  ["me", "Me"],
] as const;

export function Settings() {
  const part = useLocation().pathname.split("/")[2] ?? "shop";
  return (
    <Box>
      <Typography variant="h1" sx={{ px: 2, pt: 2 }}>
        Settings
      </Typography>
      <Tabs
        value={part}
        variant="scrollable"
        allowScrollButtonsMobile
        aria-label="Settings"
        sx={{ borderBottom: 1, borderColor: "divider", px: 1 }}
      >
        {PARTS.map(([id, title]) => (
          <Tab
            key={id}
            value={id}
            label={title}
            component={Link}
            to={`/settings/${id}`}
            sx={{ textTransform: "none" }}
          />
        ))}
      </Tabs>
      <Outlet />
    </Box>
  );
}
