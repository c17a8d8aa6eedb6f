/** All of the drawing that needs no page, as one script: tested in an embedded engine, and drawing on a server. */
import * as clauses from "../ui/clauses";
import * as edits from "../bench/edits";
import * as frame from "./frame";
import { figureOptions } from "./options";
import { dark, light, SANS, SERIF } from "./palette";
import * as scale from "./scale";
import { warnings } from "../picture/draw/colour";
import { pictureSvg } from "../picture/draw/picture";
import { widthOf } from "./text";
import * as words from "../ui/words";

export {
  clauses,
  dark,
  edits,
  figureOptions,
  frame,
  light,
  pictureSvg,
  SANS,
  scale,
  SERIF,
  warnings,
  widthOf,
  words,
};
