// Which job somebody learns on, and what its device shows.

import { useQuery } from "@tanstack/react-query";
import { client, got, type Job } from "../api/client";
import type { components } from "../api/schema";

export type Practice = components["schemas"]["PracticeOut"];
type PracticeState = components["schemas"]["PracticeState"];

/** What a device to learn on shows; null for any other job. */
export function useJobPractice(job: Job): Practice | null {
  const practice = useQuery({
    queryKey: ["job", job.id, "practice"],
    queryFn: () => got<Practice>(client.GET("/api/jobs/{job_id}/practice", { params: { path: { job_id: job.id } } })),
    enabled: job.can_simulate,
    staleTime: Infinity,
  });
  return practice.data?.practice ? practice.data : null;
}

export const usePractice = (demo: boolean) =>
  useQuery({
    queryKey: ["practice"],
    queryFn: () => got<PracticeState>(client.GET("/api/practice")),
    enabled: demo,
  });
