// The lines of a quote as they are typed: money with a comma or a point, the sum in hundredths so that nothing is lost.

import type { QuoteLine } from "../api/client";

export interface Typed {
  kind: QuoteLine["kind"];
  title: string;
  amount: string;
  minutes: number | null;
}
const MONEY = /^\d{1,6}([.,]\d{1,2})?$/;

export const isMoney = (text: string): boolean => MONEY.test(text.trim());
const hundredths = (text: string): number => Math.round(Number(text.trim().replace(",", ".")) * 100);

/** What the lines come to without tax; null where one cannot be read. */
export function netOf(lines: readonly Typed[]): string | null {
  if (!lines.every((line) => isMoney(line.amount))) return null;
  return (lines.reduce((sum, line) => sum + hundredths(line.amount), 0) / 100).toFixed(2);
}

/** The lines as they are sent. */
export const linesOf = (lines: readonly Typed[]): QuoteLine[] =>
  lines.map(({ kind, title, amount, minutes }) => ({
    kind,
    title: title.trim(),
    amount: (hundredths(amount) / 100).toFixed(2),
    minutes,
  }));
