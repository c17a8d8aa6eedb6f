import { Button } from "antd";
import { api, dataOf, type Schemas } from "../api/client";
import { formatMoment } from "../ui/format";

interface Props {
  sessions: Schemas["KeepingView"]["sessions"];
  doing: (call: Promise<unknown>) => void;
}

/** The browsers that came in with the key; each can be shut out again. */
export function Sessions({ sessions, doing }: Props) {
  return (
    <table className="keeping-backups">
      <thead>
        <tr>
          <th>who</th>
          <th>came in</th>
          <th>last seen</th>
          <th>browser</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {sessions.map((session) => (
          <tr key={session.id}>
            <td>{session.who || "whoever started it"}</td>
            <td>{formatMoment(session.made_at)}</td>
            <td>{formatMoment(session.seen_at)}</td>
            <td title={session.agent}>{nameOf(session.agent)}</td>
            <td>
              {session.here ? (
                "this one"
              ) : (
                <button
                  type="button"
                  className="link"
                  onClick={() =>
                    doing(
                      dataOf(
                        api.DELETE("/api/keeping/sessions/{session_id}", {
                          params: { path: { session_id: session.id } },
                        }),
                      ),
                    )
                  }
                >
                  end it
                </button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Leave: this browser's session ends. */
export function SignOut() {
  return (
    <form method="post" action="/logout">
      <Button htmlType="submit">Sign out</Button>
    </form>
  );
}

/** What a browser calls itself, shortened to what tells it from others. */
function nameOf(agent: string): string {
  const browser = /(Edg|Firefox|Chrome|Safari)\w*\/\d+/.exec(agent)?.[0] ?? agent.split(" ")[0];
  const system = /(Windows|Macintosh|Android|iPhone|iPad|Linux)/.exec(agent)?.[0];
  return [browser?.replace("/", " "), system].filter(Boolean).join(", ") || "not said";
}
