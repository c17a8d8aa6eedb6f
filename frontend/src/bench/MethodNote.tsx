import { App as AntApp, Button } from "antd";
import { useQuery } from "@tanstack/react-query";
import { troubleOf } from "../api/client";
import { TroubleNote } from "../ui/Trouble";

/** The account of what was done, as it travels with the chart. */
export function MethodNote({ studyId, revision }: { studyId: number; revision: number }) {
  const { message } = AntApp.useApp();
  const query = useQuery({
    queryKey: ["note", studyId, revision],
    queryFn: async () => {
      const answer = await fetch(`/api/studies/${studyId}/handover/method-note.txt`);
      if (!answer.ok) throw troubleOf(await answer.json(), answer.status);
      return answer.text();
    },
  });
  if (query.error) return <TroubleNote error={query.error} />;
  return (
    <div className="note">
      <Button
        size="small"
        onClick={() => {
          void navigator.clipboard
            .writeText(query.data ?? "")
            .then(() => message.success("The note is copied."));
        }}
      >
        Copy the note
      </Button>
      <pre>{query.data}</pre>
    </div>
  );
}
