import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import type { Run } from "../api/client";
import { newKey } from "../../common/key";
import { sendPhoto } from "../api/files";

/** Send files to a run one by one; each file that is refused is named and does not stop the others. */
export function useSending(run: Run | undefined) {
  const queries = useQueryClient();
  const [failed, setFailed] = useState<string[]>([]);
  const [open, setOpen] = useState(0);
  const send = useCallback(
    async (files: File[]) => {
      if (!run) return;
      setFailed([]);
      setOpen((n) => n + files.length);
      for (const file of files) {
        try {
          await sendPhoto(run.id, file, newKey());
        } catch (error) {
          const words = `${file.name}: ${error instanceof Error ? error.message : "not sent"}`;
          setFailed((all) => [...all.filter((one) => one !== words), words]);
        }
        setOpen((n) => n - 1);
      }
      void queries.invalidateQueries({ queryKey: ["job", run.job_id] });
    },
    [run, queries],
  );
  return {
    send,
    failed,
    open,
    forget: (words: string) => {
      setFailed((all) => all.filter((one) => one !== words));
    },
  };
}

export type Sending = ReturnType<typeof useSending>;
