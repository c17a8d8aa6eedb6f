import type { Place } from "./Reader";

export const OPEN_MANUAL = "zembra:manual";

/** Open the manual beside what is on the screen. */
export function openManual(place: Place = {}): void {
  window.dispatchEvent(new CustomEvent(OPEN_MANUAL, { detail: place }));
}
