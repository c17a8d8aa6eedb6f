/** All of the drawing that needs no page, as one script: tested in an embedded engine, and drawing on a server. */
import * as clauses from "../ui/clauses";
import * as edits from "../bench/edits";
import * as frame from "./frame";
import { dark, light, SANS, SERIF } from "./palette";
import { sceneOf } from "./scene";
import * as scale from "./scale";
import { colourOf, groundOf, paletteOf, warnings } from "../picture/draw/colour";
import { pictureSvg } from "../picture/draw/picture";
import { widthOf } from "./text";
import * as words from "../ui/words";

export {
  clauses,
  colourOf,
  dark,
  edits,
  frame,
  groundOf,
  light,
  paletteOf,
  pictureSvg,
  SANS,
  scale,
  sceneOf,
  SERIF,
  warnings,
  widthOf,
  words,
};
