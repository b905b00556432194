// Under which conditions the next answers are given: kept until they change, and stored with every answer.

import { Box, TextField, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import type { Conditions } from "../api/client";

export function ConditionRow({ value, onChange }: { value: Conditions; onChange: (to: Conditions) => void }) {
  const charge = value.battery_percent;
  return (
    <Box
      role="group"
      aria-label="Conditions"
      sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1.5 }}
    >
      <Typography variant="body2" color="textSecondary">
        Now:
      </Typography>
      <ToggleButtonGroup
        exclusive
        size="small"
        aria-label="Supply"
        value={value.mains === true ? "mains" : value.mains === false ? "battery" : null}
        onChange={(_, to: "mains" | "battery" | null) => {
          onChange({ ...value, mains: to === null ? null : to === "mains" });
        }}
      >
        <ToggleButton value="mains">Mains in</ToggleButton>
        <ToggleButton value="battery">On battery</ToggleButton>
      </ToggleButtonGroup>
      <ToggleButtonGroup
        exclusive
        size="small"
        aria-label="Room light"
        value={value.room ?? null}
        onChange={(_, to: Conditions["room"]) => {
          onChange({ ...value, room: to ?? null });
        }}
      >
        <ToggleButton value="dark">Dark</ToggleButton>
        <ToggleButton value="dim">Dim</ToggleButton>
        <ToggleButton value="bright">Bright</ToggleButton>
      </ToggleButtonGroup>
      <TextField
        size="small"
        label="Battery, %"
        value={charge ?? ""}
        sx={{ width: 110 }}
        slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 3 } }}
        onChange={(event) => {
          const to = Number(event.target.value);
          onChange({
            ...value,
            battery_percent:
              event.target.value.trim() === "" || !Number.isInteger(to) || to < 0 || to > 100 ? null : to,
          });
        }}
      />
    </Box>
  );
}
