import { Drawer } from "antd";
import { lazy, Suspense, useEffect, useState } from "react";
import { isTyping } from "../app/keys";
import { OPEN_MANUAL } from "./open";
import type { Place } from "./Reader";

const Reader = lazy(() => import("./Reader").then((module) => ({ default: module.Reader })));
const WIDTH = 560;

/** The manual beside the work: `?` opens it with all pages and keys, a card at what its entry is. */
export function Help() {
  const [place, setPlace] = useState<Place>();
  useEffect(() => {
    const show = (event: Event) => setPlace((event as CustomEvent<Place>).detail);
    // the key by what it types: where the question mark lies differs between keyboards
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== "?" || isTyping(event)) return;
      event.preventDefault();
      setPlace((is) => (is ? undefined : {}));
    };
    window.addEventListener(OPEN_MANUAL, show);
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener(OPEN_MANUAL, show);
      window.removeEventListener("keydown", onKey);
    };
  }, []);
  return (
    <Drawer
      open={Boolean(place)}
      onClose={() => setPlace(undefined)}
      title="Manual"
      size={WIDTH}
      mask={false}
      destroyOnHidden
      extra={
        <a href={`/manual/${place?.page ?? ""}`} target="_blank" rel="noreferrer">
          in a window of its own
        </a>
      }
    >
      <Suspense fallback={<p className="muted">One moment…</p>}>
        {place && <Reader place={place} onPlace={setPlace} />}
      </Suspense>
    </Drawer>
  );
}
