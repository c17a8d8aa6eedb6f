import { Link } from "react-router";
import { TopBar } from "./TopBar";

export function NothingHere() {
  return (
    <div className="page">
      <TopBar />
      <main className="empty">
        <h2>There is nothing at this address</h2>
        <p>
          Go to <Link to="/">your studies</Link> and start from there.
        </p>
      </main>
    </div>
  );
}
