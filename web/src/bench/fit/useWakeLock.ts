// Keeps the screen awake while somebody's hands are in a device; where the browser cannot, nothing changes.

import { useEffect } from "react";

export function useWakeLock(): void {
  useEffect(() => {
    let lock: WakeLockSentinel | null = null;
    let over = false;
    const ask = () => {
      if (document.visibilityState !== "visible" || !("wakeLock" in navigator)) return;
      navigator.wakeLock
        .request("screen")
        .then((given) => {
          if (over) void given.release();
          else lock = given;
        })
        .catch(() => {
          // battery saver, or not allowed here
        });
    };
    ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      over = true;
      document.removeEventListener("visibilitychange", ask);
      void lock?.release();
    };
  }, []);
}
