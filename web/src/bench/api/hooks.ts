// What the screens read and do, over react-query. A job's screen is one query; the live link says when it is stale.

import {
  useMutation,
  useQuery,
  useQueryClient,
  type MutateOptions,
  type UseMutationResult,
} from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import {
  AWAY_WORDS,
  client,
  cookie,
  got,
  Problem,
  problemOf,
  type Entry,
  type Job,
  type JobLine,
  type Me,
  type OfferedProfile,
  type Run,
  type Stage,
  type Condition,
  type Vocabulary,
} from "./client";

export const useMe = () =>
  useQuery({ queryKey: ["me"], queryFn: () => got<Me>(client.GET("/api/me")), staleTime: 60_000 });
export const useCondition = () =>
  useQuery({
    queryKey: ["condition"],
    queryFn: () => got<Condition>(client.GET("/api/condition")),
    refetchInterval: 15_000,
  });
export const useJobs = () =>
  useQuery({ queryKey: ["jobs"], queryFn: () => got<JobLine[]>(client.GET("/api/jobs")), refetchInterval: 10_000 });
export const useVocabulary = () =>
  useQuery({
    queryKey: ["vocabulary"],
    queryFn: () => got<Vocabulary>(client.GET("/api/vocabulary")),
    staleTime: Infinity,
  });
export const useProfiles = () =>
  useQuery({ queryKey: ["profiles"], queryFn: () => got<OfferedProfile[]>(client.GET("/api/profiles")) });
export const useJob = (id: number) =>
  useQuery({
    queryKey: ["job", id],
    queryFn: () => got<Job>(client.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
  });
export const useRecord = (id: number) =>
  useQuery({
    queryKey: ["job", id, "record"],
    queryFn: () => got<Entry[]>(client.GET("/api/jobs/{job_id}/record", { params: { path: { job_id: id } } })),
  });

export function useSignIn() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { username: string; password: string }) => got<Me>(client.POST("/api/session", { body })),
    onSuccess: (me) => {
      queries.setQueryData(["me"], me);
    },
  });
}

/** The same mutation, except that a value which is still on its way is not sent again: a double click does one thing. */
export function useSingle<D, T>(mutation: UseMutationResult<D, Error, T>) {
  const underway = useRef(new Set<string>());
  const mutate = (value: T, options?: MutateOptions<D, Error, T>) => {
    const key = JSON.stringify(value ?? null);
    if (underway.current.has(key)) return;
    underway.current.add(key);
    mutation
      .mutateAsync(value, options)
      .catch(() => {
        /* shown from mutation.error */
      })
      .finally(() => {
        underway.current.delete(key);
      });
  };
  return { ...mutation, mutate };
}

/** A change of a job; `send` is given the version that the change is based on. */
export function useJobChange<T>(id: number, send: (value: T, version: number) => Promise<{ data?: unknown }>) {
  const queries = useQueryClient();
  return useSingle(
    useMutation<unknown, Error, T>({
      mutationFn: (value: T) => got<unknown>(send(value, queries.getQueryData<Job>(["job", id])?.version ?? 0)),
      onSuccess: (job) => {
        if (job !== null && typeof job === "object" && "stations" in job) queries.setQueryData(["job", id], job);
      },
      // not awaited: the next change need not wait for the page to catch up
      onSettled: () => {
        void queries.invalidateQueries({ queryKey: ["job", id], exact: false });
      },
    }),
  );
}

export interface LiveEvent {
  what: string;
  run: number | null;
  pattern?: string;
  step?: number;
  photo?: number;
  good?: boolean;
}
type Listener = (event: LiveEvent) => void;
const listeners = new Set<Listener>();

export function onLive(listener: Listener): () => void {
  listeners.add(listener);
  return () => {
    listeners.delete(listener);
  };
}

const FOLLOW_MS = 1000;
const RELINK_MS = 2000;

/** Keep one stream a job open; many small changes in a row cause one refetch. */
export function useLive(id: number): boolean {
  const queries = useQueryClient();
  const [linked, setLinked] = useState(true);
  useEffect(() => {
    let source: EventSource;
    let timer = 0;
    let follow = 0;
    let retry = 0;
    const refetch = (delay: number) => {
      clearTimeout(timer);
      timer = window.setTimeout(() => {
        void queries.invalidateQueries({ queryKey: ["job", id] });
      }, delay);
    };
    const hear = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as LiveEvent;
      listeners.forEach((listener) => {
        listener(event);
      });
      // a glass that records tells several times a second how far it is: the page follows once a second
      if (event.what === "touch_now")
        follow ||= window.setTimeout(() => {
          follow = 0;
          void queries.invalidateQueries({ queryKey: ["job", id] });
        }, FOLLOW_MS);
      else if (event.what !== "pattern") refetch(120);
    };
    const open = () => {
      source = new EventSource(`/api/jobs/${id}/events`);
      source.addEventListener("hello", () => {
        setLinked(true);
        refetch(0);
      });
      source.onmessage = hear;
      source.onerror = () => {
        setLinked(false);
        // a browser gives up on any answer that is no stream: signed out, or the server is starting
        if (source.readyState === EventSource.CLOSED) retry = window.setTimeout(open, RELINK_MS);
      };
    };
    open();
    return () => {
      clearTimeout(timer);
      clearTimeout(follow);
      clearTimeout(retry);
      source.close();
    };
  }, [id, queries]);
  return linked;
}

/** fetch, with a server that does not answer told as everywhere else. */
const asked = (path: string, options: RequestInit): Promise<Response> =>
  fetch(path, options).catch(() => {
    throw new Problem(0, AWAY_WORDS, "offline");
  });

/** Send one photo file; a key makes a second try harmless. */
export async function sendPhoto(runId: number, file: File, key: string, pattern = ""): Promise<void> {
  const form = new FormData();
  form.append("photo", file, file.name);
  const headers = { "X-CSRFToken": cookie("csrftoken"), "Idempotency-Key": key };
  const answer = await asked(`/api/runs/${runId}/photos${pattern ? `?pattern=${pattern}` : ""}`, {
    method: "POST",
    body: form,
    headers,
  });
  if (!answer.ok) throw await problemOf(answer);
}

/** Send a file to a job, an EDID or a meter's readings; gives the job as it stands then. */
export async function sendToJob(
  jobId: number,
  what: "edid" | "edid/replacement" | "readings",
  file: File,
): Promise<Job> {
  const form = new FormData();
  form.append("file", file, file.name);
  const answer = await asked(`/api/jobs/${jobId}/${what}`, {
    method: "POST",
    body: form,
    headers: { "X-CSRFToken": cookie("csrftoken") },
  });
  if (!answer.ok) throw await problemOf(answer);
  return answer.json() as Promise<Job>;
}

/** A photo of the light of a lamp that pulses `hz` times a second. */
export async function sendLamp(runId: number, file: File, hz: number): Promise<void> {
  const form = new FormData();
  form.append("file", file, file.name);
  form.append("hz", String(hz));
  const answer = await asked(`/api/runs/${runId}/camera/lamp`, {
    method: "POST",
    body: form,
    headers: { "X-CSRFToken": cookie("csrftoken") },
  });
  if (!answer.ok) throw await problemOf(answer);
}

/** A recording that was made elsewhere, with its plan beside it where it has none inside. */
export async function sendRecording(runId: number, file: File, plan: File | null): Promise<{ data?: unknown }> {
  const form = new FormData();
  form.append("file", file, file.name);
  if (plan) form.append("plan", await plan.text());
  const answer = await asked(`/api/runs/${runId}/touch/file`, {
    method: "POST",
    body: form,
    headers: { "X-CSRFToken": cookie("csrftoken") },
  });
  if (!answer.ok) throw await problemOf(answer);
  return { data: await answer.json() };
}

/** The run of a stage, opened when it is looked at for the first time. */
export function useStageRun(job: Job, stage: Stage, locked: boolean) {
  const queries = useQueryClient();
  const run = job.runs.find((one) => one.stage === stage);
  const opening = useMutation({
    mutationFn: () => openRun(job.id, stage),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["job", job.id] }),
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
