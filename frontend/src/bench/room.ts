import { useEffect, useState } from "react";

/** How the bench is divided, in pixels; closed: the dock shows its tabs only. */
export interface Room {
  ledger: number;
  dock: number;
  closed: boolean;
}

export const LIMITS = { ledger: [260, 560], dock: [120, 640] } as const;

/** The tabs, the head of the values table and eight of its rows. */
const EIGHT_ROWS = 285;

/** Less on a small screen: the chart needs the room. */
function usual(): Room {
  return {
    ledger: Math.round(Math.max(LIMITS.ledger[0], Math.min(340, window.innerWidth * 0.28))),
    dock: EIGHT_ROWS,
    closed: false,
  };
}

function remembered(key: string): Room {
  try {
    const kept = JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<Room>;
    return { ...usual(), ...kept };
  } catch {
    return usual();
  }
}

/** The division of a study's bench, remembered on this machine. */
export function useRoom(studyId: number): [Room, (change: Partial<Room>) => void] {
  const key = `zembra.room.${studyId}`;
  const [room, setRoom] = useState(() => remembered(key));
  // only what the analyst set is remembered: another screen may have another size
  const [changed, setChanged] = useState(false);
  useEffect(() => {
    if (changed) localStorage.setItem(key, JSON.stringify(room));
  }, [key, room, changed]);
  const change = (wanted: Partial<Room>) => {
    setChanged(true);
    setRoom((now) => ({ ...now, ...wanted }));
  };
  return [room, change];
}
