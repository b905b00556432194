// The queue of photos that are not on the server yet. It lives in IndexedDB, so that it survives reload and loss of network.

import { openStore } from "../common/store";

export interface Waiting {
  key: string;
  code: string;
  /** The run that it was shot for: the page may go on to another stage before it is sent. */
  run?: number;
  name: string;
  blob: Blob;
  addedAt: number;
  refused?: string;
  tries?: number;
  why?: string;
}

const STORE = "waiting";

const open = (): Promise<IDBDatabase> => openStore("hand-camera", STORE);

function work<T>(mode: IDBTransactionMode, what: (store: IDBObjectStore) => IDBRequest<T>): Promise<T> {
  return open().then(
    (database) =>
      new Promise<T>((resolve, reject) => {
        const transaction = database.transaction(STORE, mode);
        const request = what(transaction.objectStore(STORE));
        transaction.oncomplete = () => {
          database.close();
          resolve(request.result);
        };
        transaction.onerror = transaction.onabort = () => {
          database.close();
          reject(transaction.error ?? new Error("no storage"));
        };
      }),
  );
}

export const keep = (item: Waiting): Promise<unknown> => work("readwrite", (store) => store.put(item));
export const drop = (key: string): Promise<unknown> => work("readwrite", (store) => store.delete(key));
export const waiting = (code: string): Promise<Waiting[]> =>
  work<Waiting[]>("readonly", (store) => store.getAll() as IDBRequest<Waiting[]>).then((all) =>
    all.filter((item) => item.code === code).sort((a, b) => a.addedAt - b.addedAt),
  );

/** What an answer means for a photo that waits here: `stored` and `refused` are final, and its copy may go; anything else will change. */
export type Outcome = "stored" | "refused" | "wait";

// a job that is closed may be opened again, an inspection that is full may lose a photo, a code may be renewed
const MAY_CHANGE = ["job-closed", "too-many-photos"];

export function outcomeOf(status: number, code: string): Outcome {
  if (status === 200 || status === 201) return "stored";
  if ([409, 413, 415, 422].includes(status) && !MAY_CHANGE.includes(code)) return "refused";
  return "wait";
}

/** Which photo is tried next: the one that was tried least often, then the oldest, so that one that fails keeps no other waiting. */
export function nextToTry<T extends { refused?: string; tries?: number; addedAt: number }>(queue: T[]): T | undefined {
  return queue
    .filter((item) => !item.refused)
    .sort((a, b) => (a.tries ?? 0) - (b.tries ?? 0) || a.addedAt - b.addedAt)[0];
}

/** Milliseconds to wait before try number `tries` (from 1): 1 s, doubled each time, at most 30 s. */
export const backoff = (tries: number): number => Math.min(30000, 1000 * 2 ** (tries - 1));
