import { App as AntApp, Button } from "antd";
import { useQuery } from "@tanstack/react-query";
import { fetchFile } from "../ui/files";
import { TroubleNote } from "../ui/Trouble";

/** The account of what was done, as it travels with the chart. */
export function MethodNote({ studyId, revision }: { studyId: number; revision: number }) {
  const { message } = AntApp.useApp();
  const query = useQuery({
    queryKey: ["note", studyId, revision],
    queryFn: async () => (await fetchFile(studyId, "method-note.txt")).data.text(),
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
