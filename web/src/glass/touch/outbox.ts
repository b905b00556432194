// Parts of a session on their way to the server: one after the other, each until it is acknowledged. They are kept in IndexedDB, so that
// a reload or a loss of the network loses nothing; where there is no IndexedDB they are kept in memory.

import { newKey } from "../../common/key";
import { openStore } from "../../common/store";
import type { Row } from "./samples";

export interface Part {
  sender: string;
  number: number;
  events: Row[];
  steps: object[];
  origin_ms: number;
  now: object;
}
interface Kept {
  key: string;
  place: string;
  at: number;
  part: Part;
}
export type Post = (part: Part) => Promise<number>;

const STORE = "parts";
// too slow, too often, or a code that was renewed or revoked: none of it is the part's own fault
const PASSING = [408, 410, 429];
const LEAST_WAIT_MS = 400;
const MOST_WAIT_MS = 8000;

export class Outbox {
  private queue: Kept[] = [];
  private store: Promise<IDBDatabase | null>;
  private sending = false;
  private wait = LEAST_WAIT_MS;
  private number = 0;
  private readonly sender = newKey().slice(0, 16);
  private readonly restored: Promise<void>;

  /** `place` names the session whose parts these are; `changed` is told how many wait. */
  constructor(
    private readonly place: string,
    private readonly post: Post,
    private readonly changed: (waiting: number, refused: boolean) => void,
  ) {
    this.store = "indexedDB" in window ? openStore("glass-touch", STORE).catch(() => null) : Promise.resolve(null);
    this.restored = this.restore();
    void this.restored.then(() => {
      this.send();
    });
  }

  add(part: Omit<Part, "sender" | "number">): void {
    const kept = {
      key: `${this.place}.${this.sender}.${this.number}`,
      place: this.place,
      at: Date.now(),
      part: { ...part, sender: this.sender, number: this.number },
    };
    this.number += 1;
    this.queue.push(kept);
    this.write((store) => store.put(kept));
    this.changed(this.queue.length, false);
    void this.restored.then(() => {
      this.send();
    });
  }

  get waiting(): number {
    return this.queue.length;
  }

  private write(what: (store: IDBObjectStore) => void): void {
    void this.store
      .then((open) => {
        if (open) what(open.transaction(STORE, "readwrite").objectStore(STORE));
      })
      .catch(() => undefined);
  }

  /** What an earlier page of this device could not send goes first. */
  private restore(): Promise<void> {
    return this.store
      .then(
        (open) =>
          new Promise<void>((resolve) => {
            if (!open) {
              resolve();
              return;
            }
            const request = open.transaction(STORE, "readonly").objectStore(STORE).getAll() as IDBRequest<Kept[]>;
            request.onsuccess = () => {
              const earlier = request.result.filter(
                (kept) => kept.place === this.place && kept.part.sender !== this.sender,
              );
              this.queue = [...earlier.sort((a, b) => a.at - b.at || a.part.number - b.part.number), ...this.queue];
              resolve();
            };
            request.onerror = () => {
              resolve();
            };
          }),
      )
      .catch(() => undefined);
  }

  private send(): void {
    const first = this.queue[0];
    if (this.sending || !first) return;
    this.sending = true;
    const again = () => {
      this.sending = false;
      window.setTimeout(() => {
        this.send();
      }, this.wait);
      this.wait = Math.min(MOST_WAIT_MS, 2 * this.wait);
    };
    this.post(first.part).then((status) => {
      const taken = status < 300;
      // what the server understands and will not take is not sent for ever
      if (!taken && (status >= 500 || PASSING.includes(status))) {
        again();
        return;
      }
      this.queue.shift();
      this.write((store) => store.delete(first.key));
      this.wait = LEAST_WAIT_MS;
      this.sending = false;
      this.changed(this.queue.length, !taken);
      this.send();
    }, again);
  }
}
