// A job's screen is the sum of its facets: one query each. A change gives back the head and what it was about; live events name the rest.

import { useMutation, useQueries, useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { client, got, type Entry, type Job, type JobHead, type Run, type Stage } from "./client";
import { applyAnswer, isLinked, PARTS, type PartName } from "./facets";
import { useSingle } from "./hooks";

const at = (id: number) => ({ params: { path: { job_id: id } } });
const READ = {
  /** An answer that was on its way while a newer head came (with a change's own answer) is not put over it. */
  head: (id: number, queries: QueryClient) =>
    got<JobHead>(client.GET("/api/jobs/{job_id}", at(id))).then((head) => {
      const known = queries.getQueryData<JobHead>(["job", id, "head"]);
      return known && known.version > head.version ? known : head;
    }),
  isolate: (id: number) => got<object>(client.GET("/api/jobs/{job_id}/isolate", at(id))),
  pictures: (id: number) => got<object>(client.GET("/api/jobs/{job_id}/pictures", at(id))),
  touch: (id: number) => got<object>(client.GET("/api/jobs/{job_id}/touch", at(id))),
  comparisons: (id: number) => got<object>(client.GET("/api/jobs/{job_id}/comparisons", at(id))),
  documents: (id: number) => got<object>(client.GET("/api/jobs/{job_id}/documents", at(id))),
} satisfies Record<PartName, unknown>;

interface Part {
  data: object | undefined;
  error: Error | null;
  refetch: () => unknown;
}
/** The whole of a job once every part of it is there. */
function whole(parts: Part[]): { data: Job | undefined; isPending: boolean; error: Error | null; refetch: () => void } {
  const error = parts.find((part) => part.error)?.error ?? null;
  const complete = parts.every((part) => part.data);
  return {
    data: complete ? (Object.assign({}, ...parts.map((part) => part.data)) as Job) : undefined,
    isPending: !complete && !error,
    error,
    refetch: () => {
      for (const part of parts) void part.refetch();
    },
  };
}

export const useJob = (id: number) =>
  useQueries({
    queries: PARTS.map((part) => ({
      queryKey: ["job", id, part],
      queryFn: ({ client: queries }) => READ[part](id, queries),
    })),
    combine: whole,
  });

/** The runs of several jobs, as far as they are there; what cannot be read is left out. */
export const useRunsOf = (ids: readonly number[]) =>
  useQueries({
    queries: ids.map((id) => ({
      queryKey: ["job", id, "pictures"],
      queryFn: () => READ.pictures(id),
      staleTime: 60_000,
    })),
    combine: runsOfEach,
  });
const runsOfEach = (parts: { data?: object }[]) =>
  parts.map((part) => (part.data as Pick<Job, "runs"> | undefined)?.runs ?? []);

export const useRecord = (id: number) =>
  useQuery({
    queryKey: ["job", id, "record"],
    queryFn: () => got<Entry[]>(client.GET("/api/jobs/{job_id}/record", at(id))),
  });

/** A change of a job; `send` is given the version that the change is based on. */
export function useJobChange<T>(id: number, send: (value: T, version: number) => Promise<{ data?: unknown }>) {
  const queries = useQueryClient();
  return useSingle(
    useMutation<unknown, Error, T>({
      mutationFn: (value: T) =>
        got<unknown>(send(value, queries.getQueryData<JobHead>(["job", id, "head"])?.version ?? 0)),
      // not awaited: the next change need not wait for the page to catch up
      onSettled: (answer, error) => {
        if (error || !applyAnswer(queries, id, answer) || !isLinked(id))
          void queries.invalidateQueries({ queryKey: ["job", id] });
        else void queries.invalidateQueries({ queryKey: ["job", id, "record"] });
      },
    }),
  );
}

/** The run of a stage, opened when it is looked at for the first time. */
export function useStageRun(job: Job, stage: Stage, locked: boolean) {
  const queries = useQueryClient();
  const run = job.runs.find((one) => one.stage === stage);
  const opening = useMutation({
    mutationFn: () => openRun(job.id, stage),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["job", job.id, "pictures"] }),
  });
  const { mutate } = opening;
  const missing = !run && !locked;
  useEffect(() => {
    if (missing) mutate();
  }, [missing, mutate]);
  return { run, opening };
}

export const openRun = (job: number, stage: Stage) =>
  got<Run>(client.POST("/api/jobs/{job_id}/runs/{stage}", { params: { path: { job_id: job, stage } } }));
