import { Link } from "react-router";
import { TopBar } from "../app/TopBar";
import { TroubleNote } from "../ui/Trouble";

/** A study that is not there yet, or that cannot be opened. */
export function Waiting({ error }: { error: unknown }) {
  return (
    <div className="page">
      <TopBar>
        <Link to="/">Studies</Link>
      </TopBar>
      <main className="empty">
        {error ? <TroubleNote error={error} /> : <p className="muted">Running the ledger…</p>}
      </main>
    </div>
  );
}
