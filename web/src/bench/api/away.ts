// Is the server there? Failures of questions and of deeds say when it is not; then it is asked until it is back.

import { Problem } from "./client";

export interface AwayState {
  away: boolean;
  lost: number;
}
type Ask = () => Promise<boolean>;

const ASK_MS = 2000;
// no answer at all, or one that says that it or its database is starting
const GONE = [0, 502, 503, 504];

/** `lost` counts the deeds that were not stored meanwhile; it stays until somebody has seen it. */
export class Away {
  private state: AwayState = { away: false, lost: 0 };
  private listeners = new Set<() => void>();
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly ask: Ask) {}

  readonly read = (): AwayState => this.state;
  readonly listen = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  };

  failed(error: unknown, deed: boolean): void {
    if (!(error instanceof Problem) || !GONE.includes(error.status)) return;
    this.set({ away: true, lost: this.state.lost + (deed ? 1 : 0) });
    this.timer ??= setTimeout(() => {
      void this.look();
    }, ASK_MS);
  }

  seen(): void {
    this.set({ ...this.state, lost: 0 });
  }

  private async look(): Promise<void> {
    this.timer = undefined;
    if (await this.ask().catch(() => false)) this.set({ ...this.state, away: false });
    else
      this.timer = setTimeout(() => {
        void this.look();
      }, ASK_MS);
  }

  private set(state: AwayState): void {
    this.state = state;
    this.listeners.forEach((listener) => {
      listener();
    });
  }
}

/** The database must answer too: without it nothing can be shown or stored. */
const healthy: Ask = async () => {
  const answer = await fetch("/api/health", { cache: "no-store" });
  const told = (await answer.json()) as { database?: boolean };
  return told.database === true;
};

export const away = new Away(healthy);
