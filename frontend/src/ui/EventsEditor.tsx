import { useEffect, useState } from "react";
import { api, dataOf, Trouble, type Schemas } from "../api/client";
import { plural } from "./format";
import { TypedLines } from "./TypedLines";

type Event = Schemas["EventView"];

interface Props {
  title: string;
  value: unknown;
  onKeep: (value: unknown) => void;
  onBack: () => void;
}

function asText(value: unknown): string {
  const events = (Array.isArray(value) ? value : []) as Event[];
  return events
    .map(({ on, until, name }) => (until ? `${on}, ${until}, ${name}` : `${on}, ${name}`))
    .join("\n");
}

/** Events typed, pasted or brought in as a file, one a line; read by the server while they are typed. */
export function EventsEditor({ title, value, onKeep, onBack }: Props) {
  const [text, setText] = useState(() => asText(value));
  const [read, setRead] = useState<{ events?: Event[]; wrong?: string }>({});
  useEffect(() => {
    let over = false;
    const later = setTimeout(() => {
      dataOf<Schemas["EventList"]>(api.POST("/api/events", { body: { text } })).then(
        ({ events }) => over || setRead({ events }),
        (error: unknown) =>
          over || setRead({ wrong: error instanceof Trouble ? error.detail : String(error) }),
      );
    }, 200);
    return () => {
      over = true;
      clearTimeout(later);
    };
  }, [text]);
  const { events, wrong } = read;
  return (
    <TypedLines
      title={title}
      text={text}
      rows={7}
      cols={44}
      placeholder={"2026-03-14, storm\n2026-04-03, 2026-04-06, Easter timetable"}
      said={wrong ?? (events ? `${plural(events.length, "event")} understood` : "reading…")}
      wrong={Boolean(wrong)}
      onText={(text) => {
        setRead({});
        setText(text);
      }}
      onKeep={events && (() => onKeep(events))}
      onBack={onBack}
    />
  );
}
