// Where good practitioners differ, the shop picks its school once, with the reason for each beside it.

import { Box, FormControlLabel, Radio, RadioGroup, Typography } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, got, type HouseRule } from "../api/client";
import { useMe, useWhen } from "../api/hooks";
import { History } from "../parts/History";
import { ErrorNote, Waiting } from "../parts/notes";

export function HouseRules() {
  const queries = useQueryClient();
  const me = useMe();
  const when = useWhen();
  const mayWrite = me.data?.roles.includes("lead") ?? false;
  const rules = useQuery({
    queryKey: ["house-rules"],
    queryFn: () => got<HouseRule[]>(client.GET("/api/house-rules")),
  });
  const set = useMutation({
    mutationFn: ({ name, school }: { name: string; school: string }) =>
      got<HouseRule[]>(client.PUT("/api/house-rules/{name}", { params: { path: { name } }, body: { school } })),
    onSuccess: (told) => {
      queries.setQueryData(["house-rules"], told);
    },
  });
  if (!rules.data) return rules.error ? <ErrorNote error={rules.error} /> : <Waiting words="Loading the house rules" />;
  return (
    <Box sx={{ p: 2, maxWidth: 720 }}>
      <Typography color="textSecondary">
        A change holds for jobs that are taken in from now on; those under way keep the rules that they were begun with.
        {mayWrite ? "" : " A lead changes the rules; you can read them."}
      </Typography>
      <ErrorNote error={set.error} />
      {rules.data.map((rule) => (
        <Box key={rule.id} component="details" sx={{ borderTop: 1, borderColor: "divider" }} aria-label={rule.title}>
          <Box
            component="summary"
            sx={{
              cursor: "pointer",
              minHeight: 44,
              display: "flex",
              flexWrap: "wrap",
              columnGap: 1,
              alignItems: "center",
            }}
          >
            <Typography component="h2" sx={{ fontWeight: 600 }}>
              {rule.title}
            </Typography>
            <Typography color="textSecondary">
              {rule.schools.find((school) => school.id === rule.chosen)?.title}
            </Typography>
          </Box>
          <Typography variant="body2" color="textSecondary">
            {rule.about}{" "}
            {rule.changed_by
              ? `Chosen by ${rule.changed_by}, ${when(rule.changed_at ?? "")}.`
              : "Nobody has chosen yet: the usual one holds."}
          </Typography>
          <RadioGroup
            value={rule.chosen}
            aria-label={rule.title}
            onChange={(_, school) => {
              set.mutate({ name: rule.id, school });
            }}
          >
            {rule.schools.map((school) => (
              <Box key={school.id} sx={{ mt: 1 }}>
                <FormControlLabel value={school.id} disabled={!mayWrite} control={<Radio />} label={school.title} />
                <Typography variant="body2" color="textSecondary" sx={{ ml: 4 }}>
                  {school.reason}
                </Typography>
              </Box>
            ))}
          </RadioGroup>
          {rule.changed_by && <History kind="rule" id={rule.id} version={rule.changed_at ?? ""} />}
        </Box>
      ))}
    </Box>
  );
}
