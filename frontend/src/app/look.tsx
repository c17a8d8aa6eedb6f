import { createContext, useContext } from "react";
import { light, type Palette } from "../figure/palette";

export interface Look {
  palette: Palette;
  dark: boolean;
  toggle: () => void;
}

export const LookContext = createContext<Look>({ palette: light, dark: false, toggle: () => undefined });

/** The palette in force, and the switch between light and dark. */
export function useLook(): Look {
  return useContext(LookContext);
}
