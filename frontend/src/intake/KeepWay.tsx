import { App, Button, Input, Popover } from "antd";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, dataOf, type Schemas, type Understanding } from "../api/client";
import { keepWay } from "./bringing";

/** Keep the way this file was read; the next file with the same columns is read like it. */
export function KeepWay({ understanding, name }: { understanding: Understanding; name: string }) {
  const [open, setOpen] = useState(false);
  const [title, setTitle] = useState(name);
  const { message } = App.useApp();
  const client = useQueryClient();
  const ways = useQuery({
    queryKey: ["ways"],
    enabled: open,
    queryFn: () => dataOf<Schemas["WayList"]>(api.GET("/api/ways")),
  });
  const keep = async () => {
    try {
      await keepWay(title.trim() || name, understanding.dataset.id, understanding.how, understanding.ledger);
      void message.success("Kept: the next file with these columns is read like this one.");
      await client.invalidateQueries({ queryKey: ["ways"] });
      setOpen(false);
    } catch (error) {
      void message.error(String(error));
    }
  };
  const forget = async (id: number) => {
    await dataOf(api.DELETE("/api/ways/{way_id}", { params: { path: { way_id: id } } }));
    await client.invalidateQueries({ queryKey: ["ways"] });
  };
  return (
    <Popover
      open={open}
      trigger="click"
      placement="topRight"
      arrow={false}
      onOpenChange={setOpen}
      content={
        <div className="typed">
          <label>
            <span>Name of this way of reading</span>
            <Input
              value={title}
              onChange={(event) => setTitle(event.target.value)}
              onPressEnter={() => void keep()}
            />
          </label>
          <div className="editor-foot">
            <Button size="small" type="primary" onClick={() => void keep()}>
              Keep it
            </Button>
          </div>
          {(ways.data?.ways.length ?? 0) > 0 && (
            <ul className="ways">
              {ways.data?.ways.map((way) => (
                <li key={way.id}>
                  <span title={way.columns.join(", ")}>{way.name}</span>
                  <button type="button" className="link" onClick={() => void forget(way.id)}>
                    forget
                  </button>
                </li>
              ))}
            </ul>
          )}
        </div>
      }
    >
      <Button size="large">Keep this way of reading</Button>
    </Popover>
  );
}
