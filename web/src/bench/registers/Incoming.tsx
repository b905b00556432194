// Panels that came or lie on the shelf, inspected without a customer's job.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { ofVerdict, StateMark, VERDICT_WORDS } from "../../theme/StateMark";
import { client, got } from "../api/client";
import type { components } from "../api/schema";
import { ago } from "../jobs/days";
import { Empty, ErrorNote, Waiting } from "../parts/notes";
import { BeginDialog } from "./BeginDialog";

type Page = components["schemas"]["IncomingPage"];
const DECIDED: Record<string, string> = {
  shelf: "kept on the shelf",
  returned: "goes back",
  test_display: "test display",
  recycled: "recycled",
};

export function Incoming() {
  const [params, setParams] = useSearchParams();
  const state = params.get("state") === "all" ? "all" : "open";
  const [asked, setAsked] = useState(false);
  const page = useQuery({
    queryKey: ["incoming", state],
    queryFn: () => got<Page>(client.GET("/api/incoming", { params: { query: { state } } })),
    refetchInterval: 10_000,
  });
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", p: 2 }}>
        <Typography variant="h1" sx={{ mr: "auto" }}>
          Incoming panels
        </Typography>
        <TextField
          select
          label="Show"
          value={state}
          sx={{ width: 150 }}
          onChange={(event) => {
            setParams({ state: event.target.value }, { replace: true });
          }}
        >
          <MenuItem value="open">Under way</MenuItem>
          <MenuItem value="all">All</MenuItem>
        </TextField>
        <Button
          variant="contained"
          onClick={() => {
            setAsked(true);
          }}
        >
          Inspect a panel
        </Button>
      </Box>
      {page.isPending && <Waiting words="Loading the panels" />}
      <ErrorNote error={page.error} onRetry={() => void page.refetch()} />
      {page.data?.panels.length === 0 && (
        <Box sx={{ px: 2 }}>
          <Empty>
            {state === "open"
              ? "No panel is being inspected. One that came is measured before anything is peeled, and its supplier's record learns from it."
              : "No panel was inspected yet."}
          </Empty>
        </Box>
      )}
      {page.data?.panels.map((one) => (
        <Box
          key={one.job_id}
          component={Link}
          to={`/jobs/${one.job_id}/${one.verdict ? "grade" : "inspect"}`}
          sx={{
            display: "grid",
            gridTemplateColumns: { xs: "1fr", md: "56px minmax(220px, 1.4fr) minmax(160px, 1fr) minmax(180px, 1fr)" },
            gap: { xs: 0.5, md: 2 },
            px: 2,
            py: 1,
            minHeight: 48,
            borderTop: 1,
            borderColor: "divider",
            color: "text.primary",
            textDecoration: "none",
            "&:hover": { bgcolor: "background.paper" },
          }}
        >
          <Typography color="textSecondary">{one.job_id}</Typography>
          <Box>
            <Typography sx={{ fontWeight: 600, overflowWrap: "anywhere" }}>{one.title}</Typography>
            <Typography variant="body2" color="textSecondary">
              {one.serial ? `${one.serial}, ` : ""}begun {ago(one.created_at)}
            </Typography>
          </Box>
          <Box sx={{ display: "flex", gap: 1 }}>
            {one.verdict ? (
              <>
                <StateMark state={ofVerdict(one.verdict)} size={18} />
                <Typography>{VERDICT_WORDS[one.verdict]}</Typography>
              </>
            ) : (
              <Typography color="textSecondary">Not measured</Typography>
            )}
          </Box>
          <Typography color="textSecondary">
            {one.closed ? (DECIDED[one.decision] ?? "closed") : "not decided"}
          </Typography>
        </Box>
      ))}
      {page.data?.more && (
        <Typography sx={{ p: 2 }} color="textSecondary">
          The newest are shown.
        </Typography>
      )}
      {asked && (
        <BeginDialog
          lineId={null}
          onClose={() => {
            setAsked(false);
          }}
        />
      )}
    </Box>
  );
}
