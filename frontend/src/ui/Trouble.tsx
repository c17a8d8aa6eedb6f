import { Trouble } from "../api/client";

/** A problem as the analyst reads it: what was wrong, where, what to do. */
export function TroubleNote({ error, onClose }: { error: unknown; onClose?: () => void }) {
  if (!error) return null;
  const trouble = error instanceof Trouble ? error : new Trouble(String(error), 0);
  return (
    <div className="trouble" role="alert">
      <div>
        <strong>{trouble.detail}</strong>
        {trouble.place && <span className="trouble-place">{trouble.place}</span>}
        {trouble.todo && <span>{trouble.todo}</span>}
      </div>
      {onClose && (
        <button type="button" className="quiet" onClick={onClose} aria-label="Put this note away">
          ×
        </button>
      )}
    </div>
  );
}
