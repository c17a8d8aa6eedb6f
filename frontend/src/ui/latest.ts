import { useCallback, useEffect, useRef } from "react";

interface Latest<T> {
  /** What is wanted now; undefined where nothing is. */
  now: () => T | undefined;
  /** Ask for it, after what is under way; of what is asked for meanwhile only the last is done. */
  ask: (wanted: T | undefined) => void;
}

/** Work that is done one at a time, the last that was asked for winning. work: given what is asked and a way to tell
 * whether anything is still wanted. */
export function useLatest<T>(work: (wanted: T) => Promise<void>): Latest<T> {
  const wanted = useRef<T | undefined>(undefined);
  const running = useRef(false);
  const doing = useRef(work);
  useEffect(() => void (doing.current = work), [work]);
  useEffect(() => () => void (wanted.current = undefined), []);
  const now = useCallback(() => wanted.current, []);
  const ask = useCallback((next: T | undefined) => {
    wanted.current = next;
    if (next === undefined || running.current) return;
    const go = async () => {
      running.current = true;
      while (wanted.current !== undefined) {
        const mine: T = wanted.current;
        await doing.current(mine);
        if (wanted.current === mine) break;
      }
      running.current = false;
    };
    void go();
  }, []);
  return { now, ask };
}
