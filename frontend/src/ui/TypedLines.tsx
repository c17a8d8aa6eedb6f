import { Button, Input } from "antd";

interface Props {
  title: string;
  text: string;
  rows: number;
  cols?: number;
  placeholder: string;
  /** What was understood of the text, or what is wrong with it. */
  said: string;
  wrong: boolean;
  onText: (text: string) => void;
  /** None while there is nothing that could be kept. */
  onKeep: (() => void) | undefined;
  onBack: () => void;
}

/** Lines typed, pasted or read from a text file. */
export function TypedLines({
  title,
  text,
  rows,
  cols,
  placeholder,
  said,
  wrong,
  onText,
  onKeep,
  onBack,
}: Props) {
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
          rows={rows}
          cols={cols}
          value={text}
          onChange={(event) => onText(event.target.value)}
          placeholder={placeholder}
        />
      </label>
      <p className={wrong ? "wrong" : "muted"} role="status">
        {said}
      </p>
      <div className="editor-foot">
        <label className="link">
          Read from a file
          <input
            type="file"
            hidden
            onChange={(event) =>
              void event.target.files?.[0]
                ?.text()
                .then((more) => onText(text.trim() ? `${text.trim()}\n${more}` : more))
            }
          />
        </label>
        <Button size="small" type="primary" disabled={!onKeep} onClick={onKeep}>
          Keep
        </Button>
      </div>
    </div>
  );
}
