// A photo laid over the panel is made in the background the first time somebody looks.

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import type { components } from "../api/schema";
import { client, got } from "../api/client";
import { useTiles, type Layer } from "./tiles";
import type { Cut } from "./view";

export type Rectified = components["schemas"]["RectifiedOut"];
export type PhotoView = Rectified["view"];
const ASKED_EVERY_MS = 500;

export interface Looked {
  layer: Layer | null;
  waiting: boolean;
  error: Error | null;
  again: () => void;
}

export function useRectified(photoId: number | null, view: PhotoView): Looked {
  const queries = useQueryClient();
  const asked = useQuery({
    queryKey: ["rectified", photoId, view],
    queryFn: async () => {
      const known = queries.getQueryData<Rectified>(["rectified", photoId, view]);
      if (known?.state === "waiting")
        return got<Rectified>(
          client.GET("/api/rectified/{rectified_id}", { params: { path: { rectified_id: known.id } } }),
        );
      return got<Rectified>(
        client.POST("/api/photos/{photo_id}/rectified", {
          params: { path: { photo_id: photoId ?? 0 } },
          body: { view },
        }),
      );
    },
    enabled: photoId !== null,
    refetchInterval: (query) => (query.state.data?.state === "waiting" ? ASKED_EVERY_MS : false),
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
  });
  const told = asked.data;
  const made = told?.state === "made" ? told : null;
  const cut = useMemo<Cut | null>(
    () => (made ? { scale: made.scale, levels: made.levels, tile_px: made.tile_px } : null),
    // the cut of one view never changes
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [made?.id],
  );
  const { refetch } = asked;
  const again = useCallback(() => void refetch(), [refetch]);
  const layer = useTiles(made?.id ?? null, cut, again);
  const problem = told?.state === "failed" ? new Error(told.problem) : null;
  return {
    layer,
    waiting: photoId !== null && !made && !problem && !asked.error,
    error: asked.error ?? problem,
    again,
  };
}
