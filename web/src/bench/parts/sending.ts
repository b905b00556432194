import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import type { Run } from "../api/client";
import { newKey } from "../../common/key";
import { sendPhoto } from "../api/hooks";

/** Send files to a run one by one; a file that is refused is named and does not stop the others. */
export function useSending(run: Run | undefined) {
  const queries = useQueryClient();
  const [failed, setFailed] = useState<unknown>(null);
  const [open, setOpen] = useState(0);
  const send = useCallback(async (files: File[]) => {
    if (!run) return;
    setFailed(null);
    setOpen((n) => n + files.length);
    for (const file of files) {
      try {
        await sendPhoto(run.id, file, newKey());
      } catch (error) {
        setFailed(new Error(`${file.name}: ${error instanceof Error ? error.message : "not sent"}`));
      }
      setOpen((n) => n - 1);
    }
    void queries.invalidateQueries({ queryKey: ["job", run.job_id] });
  }, [run, queries]);
  return { send, failed, open, clear: () => { setFailed(null); } };
}
