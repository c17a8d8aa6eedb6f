/** All of the drawing that needs no page, as one script: tested in an embedded engine, and drawing on a server. */
import * as clauses from "../ui/clauses";
import * as edits from "../bench/edits";
import * as frame from "./frame";
import { dark, light, SANS, SERIF } from "./palette";
import { sceneOf } from "./scene";
import * as scale from "./scale";
import { warnings } from "../picture/draw/colour";
import { pictureSvg } from "../picture/draw/picture";
import { widthOf } from "./text";
import * as words from "../ui/words";

export {
  clauses,
  dark,
  edits,
  frame,
  light,
  pictureSvg,
  SANS,
  scale,
  sceneOf,
  SERIF,
  warnings,
  widthOf,
  words,
};
