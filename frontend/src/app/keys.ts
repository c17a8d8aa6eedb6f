import type { DependencyList } from "react";
import { useHotkeys } from "react-hotkeys-hook";

/** Whether keys typed now are text; radio buttons and boxes take none. */
export function isTyping(event: KeyboardEvent): boolean {
  const at = event.target;
  return (
    at instanceof HTMLElement && Boolean(at.closest("textarea, input:not([type=radio], [type=checkbox])"))
  );
}

/** A key of the whole screen: works wherever the focus is, unless text is being typed. */
export function useKey(keys: string, act: () => void, deps: DependencyList = []): void {
  useHotkeys(keys, act, { enableOnFormTags: true, ignoreEventWhen: isTyping, preventDefault: true }, [
    ...deps,
  ]);
}
