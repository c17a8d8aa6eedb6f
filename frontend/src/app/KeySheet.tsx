import { Modal } from "antd";
import { useEffect, useState } from "react";
import { isTyping } from "./keys";

const KEYS: [string, [string, string][]][] = [
  [
    "Anywhere",
    [
      ["?", "this sheet"],
      ["Tab, Shift Tab", "to the next word or control, and back"],
      ["g then s", "to the studies"],
    ],
  ],
  [
    "On a word of a sentence",
    [
      ["↑ ↓", "nudge a number, or take the next choice; the chart follows"],
      ["Shift ↑ ↓", "nudge by ten"],
      ["Enter", "open the word; Enter again keeps it"],
      ["Escape", "back to what it said before"],
    ],
  ],
  [
    "On the bench",
    [
      ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
      ["a", "add an entry: every kind, and letters search it"],
      ["b, n, m", "before, both, after"],
      ["e, v, f, t", "Evidence, Values, Follow-up, Method note"],
      ["h", "hand over"],
      ["g then n", "to the new rows"],
      ["g then p", "to the projection view; g then b back"],
    ],
  ],
  [
    "On the candidates of a projection",
    [
      ["↑ ↓", "walk them; the charts follow"],
      ["Enter", "take one"],
      ["Space", "lay it beside the one that is chosen"],
      ["← →, on a starting point", "the one before, the one after"],
    ],
  ],
  [
    "On a line that stands at a value",
    [
      ["↑ ↓", "move it; with Shift, ten times as far"],
      ["Enter, Escape", "keep it there, or back"],
    ],
  ],
  [
    "In the values table",
    [
      ["↑ ↓, Page, Home, End", "choose a period; with Shift, a stretch"],
      ["Ctrl C", "copy the stretch as a table"],
      ["Enter", "what the point is, and what can be done"],
    ],
  ],
  [
    "On the chart",
    [
      ["← →", "move the reading one period; with Shift, ten"],
      ["Home, End", "first and last period shown"],
      ["+ −, 0", "closer, wider, everything"],
      ["Enter, or a click", "what the point is, and what can be done"],
      ["Shift and drag", "the same for a stretch"],
    ],
  ],
  [
    "On a row of the follow-up list",
    [
      ["↑ ↓", "the row before, the row after"],
      ["o, a, x", "open, asked, explained"],
      ["Enter", "write what came of it"],
    ],
  ],
  [
    "On an entry",
    [
      ["Alt ↑ ↓", "move it"],
      ["Space", "switch it off or on"],
      ["Delete", "remove it"],
    ],
  ],
];

/** The `?` sheet: every key, one place. */
export function KeySheet() {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const show = () => setOpen(true);
    // the key by what it types: where the question mark lies differs between keyboards
    const onKey = (event: KeyboardEvent) => {
      if (event.key === "?" && !isTyping(event)) setOpen((is) => !is);
    };
    window.addEventListener("zembra:keys", show);
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener("zembra:keys", show);
      window.removeEventListener("keydown", onKey);
    };
  }, []);
  return (
    <Modal open={open} onCancel={() => setOpen(false)} footer={null} title="Keys" width={720}>
      <div className="keysheet">
        {KEYS.map(([where, keys]) => (
          <section key={where}>
            <h4>{where}</h4>
            <dl>
              {keys.map(([key, does]) => (
                <div key={key}>
                  <dt>{key}</dt>
                  <dd>{does}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Modal>
  );
}
