import { Button, Input } from "antd";
import { useEffect, useState } from "react";
import { api, told, Trouble, type Schemas } from "../api/client";
import { plural } from "./format";

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
      told<Schemas["EventList"]>(api.POST("/api/events", { body: { text } })).then(
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
  return (
    <div
      className="typed"
      onKeyDown={(event) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        onBack();
      }}
    >
      <label>
        <span>{title}</span>
        <Input.TextArea
          autoFocus
          rows={7}
          cols={44}
          value={text}
          onChange={(event) => {
            setRead({});
            setText(event.target.value);
          }}
          placeholder={"2026-03-14, storm\n2026-04-03, 2026-04-06, Easter timetable"}
        />
      </label>
      <p className={read.wrong ? "wrong" : "muted"} role="status">
        {read.wrong ?? (read.events ? `${plural(read.events.length, "event")} understood` : "reading…")}
      </p>
      <div className="editor-foot">
        <label className="link">
          Read from a file
          <input
            type="file"
            hidden
            onChange={(event) =>
              void event.target.files?.[0]?.text().then((more) => {
                setRead({});
                setText(text.trim() ? `${text.trim()}\n${more}` : more);
              })
            }
          />
        </label>
        <Button size="small" type="primary" disabled={!read.events} onClick={() => onKeep(read.events)}>
          Keep
        </Button>
      </div>
    </div>
  );
}
