// What Match shows of a job, and the changes that it makes: one place keeps both of its facets in step.

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { client, got, type Buying, type MatchState } from "../api/client";
import { useJobChange } from "../api/job";

const at = (job_id: number) => ({ params: { path: { job_id } } });

export const useMatchState = (id: number) =>
  useQuery({
    queryKey: ["job", id, "match"],
    queryFn: () => got<MatchState>(client.GET("/api/jobs/{job_id}/match", at(id))),
  });
export const useBuying = (id: number) =>
  useQuery({
    queryKey: ["job", id, "buying"],
    queryFn: () => got<Buying>(client.GET("/api/jobs/{job_id}/buying", at(id))),
  });

/** Changes of the match; the answer is shown at once, and what follows from it is read anew. */
export function useMatchChanges(id: number) {
  const queries = useQueryClient();
  const taken = () => {
    void queries.invalidateQueries({ queryKey: ["job", id, "buying"] });
  };
  return {
    taken,
    name: useJobChange<number>(id, (panel_id) =>
      client.POST("/api/jobs/{job_id}/match/panel", { ...at(id), body: { panel_id } }),
    ),
    device: useJobChange<number>(id, (device_id) =>
      client.POST("/api/jobs/{job_id}/device", { ...at(id), body: { device_id } }),
    ),
    choose: useJobChange<{ offer_id: number; consequences_told: boolean }>(id, (body) =>
      client.POST("/api/jobs/{job_id}/match/offer", { ...at(id), body }),
    ),
  };
}

/** A change of what is bought; gives the facet as it stands then. */
export function useBuyingChange<T>(id: number, send: (value: T) => Promise<{ data?: unknown }>) {
  const change = useJobChange<T>(id, send);
  return {
    ...change,
    run: (value: T, done?: () => void) => {
      change.mutate(value, {
        onSuccess: () => {
          done?.();
        },
      });
    },
  };
}
