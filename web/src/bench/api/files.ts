// One way to send files: a form, the page's token, and a failure told as everywhere else.

import { AWAY_WORDS, cookie, Problem, problemOf } from "./client";

export async function sendForm(path: string, fields: Record<string, Blob | string>, key?: string): Promise<unknown> {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields))
    if (value instanceof File) form.append(name, value, value.name);
    else form.append(name, value);
  const headers = { "X-CSRFToken": cookie("csrftoken"), ...(key && { "Idempotency-Key": key }) };
  const answer = await fetch(path, { method: "POST", body: form, headers }).catch(() => {
    throw new Problem(0, AWAY_WORDS, "offline");
  });
  if (!answer.ok) throw await problemOf(answer);
  return answer.headers.get("content-type")?.includes("json") ? answer.json() : null;
}

/** One photo; a key makes a second try harmless. */
export const sendPhoto = (runId: number, file: File, key: string, pattern = "") =>
  sendForm(`/api/runs/${runId}/photos${pattern ? `?pattern=${pattern}` : ""}`, { photo: file }, key);

/** A file to a job, an EDID or a meter's readings; gives the job as it stands then. */
export const sendToJob = (jobId: number, what: "edid" | "edid/replacement" | "readings", file: File) =>
  sendForm(`/api/jobs/${jobId}/${what}`, { file });

/** A photo of the light of a lamp that pulses `hz` times a second. */
export const sendLamp = (runId: number, file: File, hz: number) =>
  sendForm(`/api/runs/${runId}/camera/lamp`, { file, hz: String(hz) });

/** A recording that was made elsewhere, with its plan beside it where it has none inside. */
export const sendRecording = async (runId: number, file: File, plan: File | null) => ({
  data: await sendForm(`/api/runs/${runId}/touch/file`, { file, ...(plan && { plan: await plan.text() }) }),
});
