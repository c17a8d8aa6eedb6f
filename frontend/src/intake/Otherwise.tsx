import { Button } from "antd";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, dataOf, type Schemas } from "../api/client";
import { TroubleNote } from "../ui/Trouble";

interface Props {
  study: number;
  file: number;
  /** Whether a question about the file is open. */
  open: boolean;
  onBring: () => void;
}

/** In what a file is read otherwise than the last one of the study that it came for. */
export function Otherwise({ study, file, open, onBring }: Props) {
  const query = useQuery({
    queryKey: ["difference", study, file],
    queryFn: () =>
      dataOf<Schemas["DifferenceView"]>(
        api.GET("/api/studies/{study_id}/new-rows/difference", {
          params: { path: { study_id: study }, query: { dataset_id: file } },
        }),
      ),
  });
  if (!query.data) return <TroubleNote error={query.error} />;
  const { study: name, last, differs } = query.data;
  return (
    <section className="otherwise" aria-label="Read otherwise than the last file">
      <h2>It is not like the last file</h2>
      <p>
        The rows are for <Link to={`/studies/${study}`}>{name}</Link>, and cannot be read as <b>{last}</b> is.
        Say below how they are read, and bring them in.
      </p>
      <table className="told-table">
        <thead>
          <tr>
            <th>the last file</th>
            <th>this one</th>
          </tr>
        </thead>
        <tbody>
          {differs.map((row) => (
            <tr key={row.was + row.now}>
              <td>{row.was || "–"}</td>
              <td>{row.now || "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button type="primary" disabled={open} onClick={onBring}>
        Bring these rows into {name}
      </Button>
      {open && <span className="muted"> The questions below come first.</span>}
    </section>
  );
}
