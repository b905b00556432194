// A few questions that tell how a display is built in, each with drawn answers; the last answer can be taken back.

import { Box, Button, Typography } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type BuildFinder as Finder, type Job } from "../api/client";
import { ErrorNote, Waiting } from "../parts/notes";
import { BuildPicture } from "./BuildPictures";

export function BuildFinder({ job, onLeft }: { job: Job; onLeft: (builds: readonly string[]) => void }) {
  const [answers, setAnswers] = useState<readonly (readonly [string, string])[]>([]);
  const told = answers.map(([question, answer]) => `${question}:${answer}`).join(",");
  const finder = useQuery({
    queryKey: ["job", job.id, "finder", told],
    queryFn: async () => {
      const found = await got<Finder>(
        client.GET("/api/jobs/{job_id}/fit/finder", {
          params: { path: { job_id: job.id }, query: { answers: told } },
        }),
      );
      onLeft(found.builds);
      return found;
    },
    placeholderData: keepPreviousData,
  });
  if (finder.isPending) return <Waiting words="Looking for the first question" />;
  const found = finder.data;
  if (!found) return <ErrorNote error={finder.error} onRetry={() => void finder.refetch()} />;
  const answer = (given: string) => {
    setAnswers([...answers, [found.id, given]]);
  };
  return (
    <Box role="group" aria-label="Which build" sx={{ mb: 1.5 }}>
      {found.contradiction && (
        <Typography color="warning">
          No build that is known answers so. Take an answer back, or choose below.
        </Typography>
      )}
      {found.id && (
        <>
          <Typography sx={{ fontWeight: 600 }}>{found.title}</Typography>
          <Typography variant="body2" color="textSecondary">
            {found.how}
          </Typography>
          <Box sx={{ display: "grid", gap: 1, mt: 1 }}>
            {Object.entries(found.answers).map(([id, title]) => (
              <Button
                key={id}
                variant="outlined"
                color="inherit"
                disabled={finder.isFetching}
                sx={{ justifyContent: "flex-start", textAlign: "left", gap: 1.5 }}
                onClick={() => {
                  answer(id);
                }}
              >
                <BuildPicture question={found.id} answer={id} />
                {title}
              </Button>
            ))}
            <Button
              disabled={finder.isFetching}
              sx={{ justifyContent: "flex-start" }}
              onClick={() => {
                answer("unknown");
              }}
            >
              Cannot tell
            </Button>
          </Box>
        </>
      )}
      {answers.length > 0 && (
        <Button
          onClick={() => {
            setAnswers(answers.slice(0, -1));
          }}
        >
          Take the last answer back
        </Button>
      )}
    </Box>
  );
}
