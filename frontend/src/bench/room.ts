import { useEffect, useState } from "react";

/** How the bench is divided, in pixels; closed: the dock shows its tabs only. */
export interface Room {
  ledger: number;
  dock: number;
  closed: boolean;
}

const USUAL: Room = { ledger: 340, dock: 200, closed: false };
export const LIMITS = { ledger: [260, 560], dock: [120, 640] } as const;

function remembered(key: string): Room {
  try {
    const kept = JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<Room>;
    return { ...USUAL, ...kept };
  } catch {
    return USUAL;
  }
}

/** The division of a study's bench, remembered on this machine. */
export function useRoom(studyId: number): [Room, (change: Partial<Room>) => void] {
  const key = `zembra.room.${studyId}`;
  const [room, setRoom] = useState(() => remembered(key));
  useEffect(() => localStorage.setItem(key, JSON.stringify(room)), [key, room]);
  return [room, (change) => setRoom((now) => ({ ...now, ...change }))];
}
