/** The period that is pointed at, in a store of its own: what moves with the mouse renders, and nothing else. */
import { createContext, useContext, useSyncExternalStore } from "react";

interface Pointer {
  get: () => number | undefined;
  set: (period: number | undefined) => void;
  subscribe: (listener: () => void) => () => void;
}

export function createPointer(): Pointer {
  let period: number | undefined;
  const listeners = new Set<() => void>();
  return {
    get: () => period,
    set: (next) => {
      if (next === period) return;
      period = next;
      for (const listener of listeners) listener();
    },
    subscribe: (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
}

export const PointerContext = createContext<Pointer>(createPointer());

/** The store, for those that point. */
export function usePointer(): Pointer {
  return useContext(PointerContext);
}

/** The period pointed at, for those that show it. */
export function usePeriod(): number | undefined {
  const pointer = usePointer();
  return useSyncExternalStore(pointer.subscribe, pointer.get);
}
