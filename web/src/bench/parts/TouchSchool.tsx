// House rule: what the shop does about the touch controller.

import { Box, FormControlLabel, Radio, RadioGroup, Typography } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, got, type SchoolOut } from "../api/client";
import { ErrorNote } from "./notes";

export function TouchSchool({ mayWrite }: { mayWrite: boolean }) {
  const queries = useQueryClient();
  const rule = useQuery({
    queryKey: ["touch-school"],
    queryFn: () => got<SchoolOut>(client.GET("/api/house-rules/touch")),
  });
  const set = useMutation({
    mutationFn: (school: string) => got<SchoolOut>(client.PUT("/api/house-rules/touch", { body: { school } })),
    onSuccess: (told) => {
      queries.setQueryData(["touch-school"], told);
    },
  });
  if (!rule.data) return null;
  return (
    <Box component="section" aria-label="House rule for the touch controller" sx={{ mt: 4, maxWidth: 620 }}>
      <Typography variant="h2">House rule: the touch controller of a new display</Typography>
      <RadioGroup
        value={rule.data.chosen}
        onChange={(_, value) => {
          set.mutate(value);
        }}
        aria-label="Touch controller"
      >
        {rule.data.schools.map((one) => (
          <Box key={one.id} sx={{ mt: 1 }}>
            <FormControlLabel value={one.id} disabled={!mayWrite} control={<Radio />} label={one.title} />
            <Typography variant="body2" color="textSecondary" sx={{ ml: 4 }}>
              {one.reason}
            </Typography>
          </Box>
        ))}
      </RadioGroup>
      <ErrorNote error={set.error ?? rule.error} />
    </Box>
  );
}
