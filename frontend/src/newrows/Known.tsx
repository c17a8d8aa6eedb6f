import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, dataOf, type Bench, type Schemas } from "../api/client";
import { keepBench } from "../bench/kept";
import { formatDate } from "../ui/format";
import { TroubleNote } from "../ui/Trouble";

/** The files that the study stood on; each is there again as it was known then. */
export function Known({ id, revision }: { id: number; revision: number }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [trouble, setTrouble] = useState<unknown>();
  const path = { study_id: id };
  const known = useQuery({
    queryKey: ["known", id, revision],
    queryFn: () =>
      dataOf<Schemas["KnownFiles"]>(api.GET("/api/studies/{study_id}/known", { params: { path } })),
  });
  const files = known.data?.files ?? [];
  const go = async (day: string) => {
    try {
      const body = { base: revision, day };
      const answer = await dataOf<Bench>(
        api.PUT("/api/studies/{study_id}/known", { params: { path }, body }),
      );
      await keepBench(client, id, answer);
      await client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "bench" });
      await navigate(`/studies/${id}`);
    } catch (error) {
      setTrouble(error);
    }
  };
  if (files.length < 2) return null;
  return (
    <>
      <h2>As it was known</h2>
      <table className="told-table">
        <tbody>
          {files.map((file) => (
            <tr key={`${file.file} ${file.as_of}`}>
              <td>{file.file}</td>
              <td>from {formatDate(file.as_of)}</td>
              <td>
                {file.now ? (
                  "now"
                ) : (
                  <button type="button" className="link" onClick={() => void go(file.as_of)}>
                    as it was then
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <TroubleNote error={trouble} />
    </>
  );
}
