import { useState } from "react";

/** How the bench is divided, in pixels; closed: the dock shows its tabs only. */
export interface Room {
  ledger: number;
  dock: number;
  closed: boolean;
}

export const LIMITS = { ledger: [260, 560], dock: [120, 640] } as const;

/** The tabs, the head of the values table, eight of its rows and its bar below. */
const EIGHT_ROWS = 336;
/** What stands above it: the bars, and a chart that still shows something. */
const CHART_NEEDS = 350;

/** Less on a small screen: the chart needs the room. */
function usual(): Room {
  return {
    ledger: Math.round(Math.max(LIMITS.ledger[0], Math.min(340, window.innerWidth * 0.28))),
    dock: Math.max(LIMITS.dock[0], Math.min(EIGHT_ROWS, window.innerHeight - CHART_NEEDS)),
    closed: false,
  };
}

function remembered(key: string): Partial<Room> {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<Room>;
  } catch {
    return {};
  }
}

/** The division of a study's bench, remembered on this machine. */
export function useRoom(studyId: number): [Room, (change: Partial<Room>) => void] {
  const key = `zembra.room.${studyId}`;
  // only what the analyst set is remembered: another screen may have another size
  const [set, setSet] = useState(() => remembered(key));
  const change = (wanted: Partial<Room>) => {
    const next = { ...set, ...wanted };
    localStorage.setItem(key, JSON.stringify(next));
    setSet(next);
  };
  return [{ ...usual(), ...set }, change];
}
