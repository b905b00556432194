// The words of a field between the keyboard and the bench: what is shown, what is sent on which version, what an answer makes of it.

export interface Draft {
  value: string;
  /** The job's version that the text was begun on; once it is stored, the version that holds it. */
  version: number;
  /** Somebody else stored another value since that version. */
  clash: boolean;
  stored?: boolean;
}

/** The draft that counts: stored text stays until the page has caught up with it, so keys struck meanwhile go on from it. */
export const current = (draft: Draft | null, jobVersion: number): Draft | null =>
  draft?.stored && jobVersion >= draft.version ? null : draft;

/** A key was struck. After a clash the value stored now has been seen, so typing on replaces it. */
export function typed(draft: Draft | null, value: string, jobVersion: number): Draft {
  const begun = current(draft, jobVersion);
  return { value, version: begun && !begun.clash ? begun.version : jobVersion, clash: false };
}

/** The bench stored ``sent`` as version ``newest``. */
export const answered = (draft: Draft | null, sent: string, newest: number): Draft | null =>
  draft && { ...draft, version: newest, stored: draft.value === sent };

export const toSend = (draft: Draft | null): Draft | null => (draft && !draft.clash && !draft.stored ? draft : null);
