// Days as a bench speaks of them.

const DAY_MS = 86_400_000;
const plural = (days: number): string => `${days} ${days === 1 ? "day" : "days"}`;

/** Today's date where the reader is, as 2026-11-29. */
export const today = (): string =>
  new Date(Date.now() - new Date().getTimezoneOffset() * 60_000).toISOString().slice(0, 10);
export const inDays = (days: number): string => new Date(Date.now() + days * DAY_MS).toISOString().slice(0, 10);

export function due(day: string): string {
  const days = Math.round((Date.parse(day) - Date.parse(today())) / DAY_MS);
  return days === 0 ? "due today" : days < 0 ? `overdue by ${plural(-days)}` : `due in ${plural(days)}`;
}

/** A day as the reader's language writes it, such as Thu 3 Dec; with its year where that is another one. */
export const dayWords = (day: string): string =>
  new Date(`${day}T12:00`).toLocaleDateString([], {
    weekday: "short",
    day: "numeric",
    month: "short",
    ...(day.slice(0, 4) !== today().slice(0, 4) && { year: "numeric" }),
  });

/** How long ago something was. */
export function ago(since: string): string {
  const hours = Math.max(0, (Date.now() - Date.parse(since)) / 3_600_000);
  if (hours < 1) return "just now";
  return `${hours < 24 ? `${Math.floor(hours)} h` : plural(Math.floor(hours / 24))} ago`;
}
