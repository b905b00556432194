// The queue of photos that are not on the server yet. It lives in IndexedDB, so that it survives reload and loss of network.

import { openStore } from "../common/store";

export interface Waiting { key: string; code: string; name: string; blob: Blob; addedAt: number; refused?: string }

const STORE = "waiting";

const open = (): Promise<IDBDatabase> => openStore("hand-camera", STORE);

function work<T>(mode: IDBTransactionMode, what: (store: IDBObjectStore) => IDBRequest<T>): Promise<T> {
  return open().then((database) => new Promise<T>((resolve, reject) => {
    const transaction = database.transaction(STORE, mode);
    const request = what(transaction.objectStore(STORE));
    transaction.oncomplete = () => { database.close(); resolve(request.result); };
    transaction.onerror = transaction.onabort = () => { database.close(); reject(transaction.error ?? new Error("no storage")); };
  }));
}

export const keep = (item: Waiting): Promise<unknown> => work("readwrite", (store) => store.put(item));
export const drop = (key: string): Promise<unknown> => work("readwrite", (store) => store.delete(key));
export const waiting = (code: string): Promise<Waiting[]> =>
  work<Waiting[]>("readonly", (store) => store.getAll() as IDBRequest<Waiting[]>)
    .then((all) => all.filter((item) => item.code === code).sort((a, b) => a.addedAt - b.addedAt));

/** Milliseconds to wait before try number `tries` (from 1): 1 s, doubled each time, at most 30 s. */
export const backoff = (tries: number): number => Math.min(30000, 1000 * 2 ** (tries - 1));
