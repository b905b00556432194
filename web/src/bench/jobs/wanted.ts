// What is to be listed, as the address bar holds it: a filtered list can be kept, sent and gone back to.

import type { operations } from "../api/schema";

export type Query = NonNullable<operations["listJobs"]["parameters"]["query"]>;
export type Field = "q" | "state" | "station" | "verdict" | "waiting_for" | "who" | "overdue" | "sort";
const FIELDS: Field[] = ["q", "state", "station", "verdict", "waiting_for", "who", "overdue", "sort"];
/** What nobody chose is not in the address. */
const USUAL: Partial<Record<Field, string>> = { state: "open", sort: "urgent" };

export const wantedOf = (params: URLSearchParams): Query =>
  Object.fromEntries(FIELDS.flatMap((field) => (params.get(field) ? [[field, params.get(field)]] : [])));

/** The address with one choice changed; an empty or usual one is left out. */
export function withChoice(params: URLSearchParams, field: Field, value: string): URLSearchParams {
  const next = new URLSearchParams(params);
  if (value === "" || value === USUAL[field]) next.delete(field);
  else next.set(field, value);
  return next;
}

/** How many filters narrow the list; words and order are no filters. */
export const narrowed = (params: URLSearchParams): number =>
  FIELDS.filter((field) => field !== "q" && field !== "sort" && params.has(field)).length;
