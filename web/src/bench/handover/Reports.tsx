// Reports: made by a worker, kept as they were handed over; and the owner's link to the page.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { STAGES } from "../../pane/vocabulary.gen";
import { client, got, type Job, type OwnerLink, type Stage } from "../api/client";
import { useReportLanguages, useSingle, useWhen } from "../api/hooks";
import { ErrorNote } from "../parts/notes";
import { ReportLines, useMakeReport } from "./ReportLines";

const DAYS = [7, 30, 90, 365];

function OwnerLinks({ job, language }: { job: Job; language: string }) {
  const when = useWhen();
  const queries = useQueryClient();
  const key = ["owner-links", job.id];
  const [days, setDays] = useState(30);
  const [asked, setAsked] = useState(false);
  const links = useQuery({
    queryKey: key,
    queryFn: () =>
      got<OwnerLink[]>(client.GET("/api/jobs/{job_id}/owner-links", { params: { path: { job_id: job.id } } })),
    enabled: asked,
  });
  const done = () => queries.invalidateQueries({ queryKey: key });
  const make = useSingle(
    useMutation<unknown, Error, number>({
      mutationFn: (wanted) =>
        got(
          client.POST("/api/jobs/{job_id}/owner-links", {
            params: { path: { job_id: job.id } },
            body: { language, days: wanted },
          }),
        ),
      onSuccess: done,
    }),
  );
  const revoke = useSingle(
    useMutation<unknown, Error, number>({
      mutationFn: (link_id) => got(client.DELETE("/api/owner-links/{link_id}", { params: { path: { link_id } } })),
      onSettled: done,
    }),
  );
  if (!asked)
    return (
      <Button
        onClick={() => {
          setAsked(true);
        }}
      >
        Link for the owner
      </Button>
    );
  return (
    <Box component="section" aria-label="Links for the owner" sx={{ width: "100%" }}>
      <Typography variant="h2">Links for the owner</Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", my: 1 }}>
        <TextField
          select
          size="small"
          label="Holds for"
          value={days}
          sx={{ width: 130 }}
          onChange={(event) => {
            setDays(Number(event.target.value));
          }}
        >
          {DAYS.map((one) => (
            <MenuItem key={one} value={one}>
              {one} days
            </MenuItem>
          ))}
        </TextField>
        <Button
          variant="outlined"
          disabled={make.isPending}
          onClick={() => {
            make.mutate(days);
          }}
        >
          Make a link
        </Button>
      </Box>
      {links.data?.map((link) => (
        <Box
          key={link.id}
          sx={{
            display: "grid",
            gridTemplateColumns: "96px minmax(0, 1fr)",
            gap: 1.5,
            py: 1,
            borderTop: 1,
            borderColor: "divider",
          }}
        >
          <Box
            component="img"
            alt="The link as a QR code"
            src={`data:image/svg+xml,${encodeURIComponent(link.qr_svg)}`}
            sx={{ width: 96, height: 96, bgcolor: "#fff" }}
          />
          <Box>
            <Typography sx={{ overflowWrap: "anywhere" }}>
              <a href={link.url} target="_blank" rel="noopener noreferrer">
                {link.url}
              </a>
            </Typography>
            <Typography variant="body2" color="textSecondary">
              Opens until {when(link.expires_at)}.
              {link.local && " This address is only reached inside the shop's network."}
            </Typography>
            <Button
              size="small"
              onClick={() => {
                revoke.mutate(link.id);
              }}
            >
              Take it back
            </Button>
          </Box>
        </Box>
      ))}
      <ErrorNote error={links.error ?? make.error ?? revoke.error} />
    </Box>
  );
}

export function Reports({ job }: { job: Job }) {
  const languages = useReportLanguages();
  const [chosen, setChosen] = useState("");
  const language = chosen || (languages.data?.[0]?.id ?? "");
  const ask = useMakeReport(job);
  const stage: Stage = job.runs.some((run) => run.stage === "closed" && run.result) ? "closed" : "inspect";
  return (
    <Box component="section" aria-label="Reports" sx={{ my: 2 }}>
      <Typography variant="h2">Reports</Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, my: 1, alignItems: "center" }}>
        {(languages.data?.length ?? 0) > 1 && (
          <TextField
            select
            size="small"
            label="Owner's language"
            value={language}
            sx={{ width: 160 }}
            onChange={(event) => {
              setChosen(event.target.value);
            }}
          >
            {languages.data?.map((one) => (
              <MenuItem key={one.id} value={one.id}>
                {one.name}
              </MenuItem>
            ))}
          </TextField>
        )}
        <Button
          variant="outlined"
          disabled={ask.isPending}
          onClick={() => {
            ask.mutate({ kind: "pdf", language });
          }}
        >
          Make the report (PDF)
        </Button>
        <Button
          disabled={ask.isPending}
          onClick={() => {
            ask.mutate({ kind: "zip", language });
          }}
        >
          With all photos (ZIP)
        </Button>
      </Box>
      <ReportLines job={job} kinds={["pdf", "zip"]} />
      <ErrorNote error={ask.error} />
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
        <Button component="a" href={`/api/jobs/${job.id}/owner.html?language=${language}`} download>
          Owner's page
        </Button>
        <Button component="a" href={`/api/jobs/${job.id}/report.json`} download>
          Report (JSON)
        </Button>
        <Button component="a" href={`/api/jobs/${job.id}/findings.csv?stage=${stage}`} download>
          Findings, {STAGES[stage].title.toLowerCase()} (CSV)
        </Button>
        <OwnerLinks job={job} language={language} />
      </Box>
    </Box>
  );
}
