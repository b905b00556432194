import { useQuery } from "@tanstack/react-query";
import { client, got, type Proving } from "../api/client";

/** What people found at a job: functions that were touched, looks by eye. */
export const useProving = (jobId: number) =>
  useQuery({
    queryKey: ["job", jobId, "proving"],
    queryFn: () => got<Proving>(client.GET("/api/jobs/{job_id}/proving", { params: { path: { job_id: jobId } } })),
  });
