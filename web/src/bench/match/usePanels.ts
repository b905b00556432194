// Panels of the register by what is typed.

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, got, type Panel } from "../api/client";

export const usePanels = (q: string) =>
  useQuery({
    queryKey: ["panels", q],
    queryFn: () => got<Panel[]>(client.GET("/api/panels", { params: { query: { q } } })),
    placeholderData: keepPreviousData,
  });
