// The shop's registers side by side: panels, devices, suppliers, orders, what came.

import { Box, Tab, Tabs } from "@mui/material";
import { Link, Outlet, useLocation } from "react-router";

const PARTS = [
  ["panels", "Panels"],
  ["devices", "Devices"],
  ["suppliers", "Suppliers"],
  ["orders", "Orders"],
  ["incoming", "Incoming"],
  ["codes", "Label codes"],
] as const;

export function Parts() {
  const part = useLocation().pathname.split("/")[2] ?? "panels";
  return (
    <Box>
      <Tabs
        value={part}
        variant="scrollable"
        allowScrollButtonsMobile
        aria-label="Parts"
        sx={{ borderBottom: 1, borderColor: "divider", px: 1 }}
      >
        {PARTS.map(([id, title]) => (
          <Tab key={id} value={id} label={title} component={Link} to={`/parts/${id}`} sx={{ textTransform: "none" }} />
        ))}
      </Tabs>
      <Outlet />
    </Box>
  );
}
