// The parts of a job that are read by themselves, and which of them a change or an event makes stale.

import type { QueryClient } from "@tanstack/react-query";
import type { JobHead } from "./client";

const FACETS = ["isolate", "pictures", "touch", "comparisons", "documents"] as const;
export const PARTS = ["head", ...FACETS] as const;
export type PartName = (typeof PARTS)[number];

/** Jobs whose live link is up: what else changed is told by it. */
const linked = new Set<number>();
export const isLinked = (id: number): boolean => linked.has(id);
export function setLinked(id: number, up: boolean): void {
  if (up) linked.add(id);
  else linked.delete(id);
}

/** What a change brought along, by job: events of that version tell nothing new of it. */
const brought = new Map<number, { version: number; facets: ReadonlySet<string> }>();

/** Facets that a change may give back by themselves, each by a field that no other answer has. */
const OWN_FIELD: Readonly<Record<string, string>> = {
  fit: "way_back",
  match: "likely",
  buying: "ranked",
  proving: "eye",
};

/** The answer of a change is newer than whatever was asked for before it: that must not come in over it. */
function put(queries: QueryClient, id: number, part: string, data: unknown): void {
  void queries.cancelQueries({ queryKey: ["job", id, part], exact: true });
  queries.setQueryData(["job", id, part], data);
}

/** Take over what a change gave back: the head with its facets, or one facet. False where it was neither. */
export function applyAnswer(queries: QueryClient, id: number, answer: unknown): boolean {
  if (answer === null || typeof answer !== "object") return false;
  const facet = Object.keys(OWN_FIELD).find((name) => (OWN_FIELD[name] ?? "") in answer);
  if (facet) put(queries, id, facet, answer);
  if (facet) return true;
  if (!("stations" in answer)) return false;
  const head: Record<string, unknown> = { ...answer };
  const facets = new Set<string>();
  for (const part of FACETS)
    if (part in head) {
      if (head[part]) {
        put(queries, id, part, head[part]);
        facets.add(part);
      }
      Reflect.deleteProperty(head, part);
    }
  const known = queries.getQueryData<JobHead>(["job", id, "head"])?.version ?? 0;
  const version = (answer as JobHead).version;
  if (version >= known) put(queries, id, "head", head);
  brought.set(id, { version, facets });
  return true;
}

/** Which parts of a job an event makes stale; null is any. */
export function staleParts(id: number, facets: readonly string[] | null, version: number | undefined): string[] | null {
  const known = brought.get(id);
  const mine = version !== undefined && known !== undefined && known.version >= version;
  if (facets === null)
    return mine ? [...FACETS, "match", "buying", "fit", "proving"].filter((part) => !known.facets.has(part)) : null;
  return [...(mine ? [] : ["head"]), ...facets.filter((facet) => !(mine && known.facets.has(facet)))];
}
