import { Popover } from "antd";
import { useRef, useState, type KeyboardEvent } from "react";
import type { Slot } from "../api/client";
import { WordEditor } from "./WordEditor";
import { nudged } from "./words";

interface Props {
  /** Where the word stands in its sentence. */
  path: string;
  slot: Slot;
  text: string;
  value: unknown;
  choices: string[];
  disabled: boolean;
  onChange: (name: string, value: unknown) => void;
  onRevert: () => void;
  onCommit: (name: string, value: unknown, what: string) => void;
}

/** One editable word: arrow keys nudge it, Enter opens it, Escape takes the change back. */
export function Word({ path, slot, text, value, choices, disabled, onChange, onRevert, onCommit }: Props) {
  const [open, setOpen] = useState(false);
  const button = useRef<HTMLSpanElement>(null);
  const nudging = useRef(false);

  const keep = (next: unknown) => {
    nudging.current = false;
    setOpen(false);
    onCommit(path, next, `${slot.title} changed`);
    button.current?.focus();
  };
  const back = () => {
    nudging.current = false;
    setOpen(false);
    onRevert();
    button.current?.focus();
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      if (event.altKey) return;
      const next = nudged(slot, value, event.key === "ArrowUp" ? 1 : -1, event.shiftKey);
      if (next === undefined) return;
      event.preventDefault();
      event.stopPropagation();
      nudging.current = true;
      onChange(path, next);
    } else if (event.key === "Escape" && nudging.current) {
      event.preventDefault();
      event.stopPropagation();
      back();
    } else if (event.key === "Enter" || event.key === " ") {
      event.preventDefault();
      event.stopPropagation();
      if (nudging.current) keep(value);
      else if (!disabled) setOpen(true);
    }
  };
  const tip = slot.choices.find((choice) => choice.value === value)?.tip;
  return (
    <Popover
      open={open}
      trigger="click"
      placement="bottomLeft"
      arrow={false}
      destroyOnHidden
      styles={{ container: { padding: 0 } }}
      onOpenChange={(next) => {
        if (disabled) return;
        if (next) setOpen(true);
        else if (open) back();
      }}
      content={
        <WordEditor
          slot={slot}
          value={value}
          choices={choices}
          onChange={(next) => onChange(path, next)}
          onKeep={keep}
          onBack={back}
        />
      }
    >
      <span
        ref={button}
        role="button"
        tabIndex={disabled ? -1 : 0}
        className="word"
        aria-disabled={disabled}
        data-word={path}
        aria-label={`${slot.title}: ${text}`}
        aria-haspopup="dialog"
        title={tip ?? slot.title}
        onKeyDown={onKeyDown}
        onBlur={() => {
          // leaving a nudged number keeps it
          if (nudging.current && !open) {
            nudging.current = false;
            onCommit(path, value, `${slot.title} changed`);
          }
        }}
      >
        {text}
      </span>
    </Popover>
  );
}
