import "../bench/bench.css";
import "./projection.css";
import { Button } from "antd";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useKey } from "../app/keys";
import { useBench } from "../bench/useBench";
import { Waiting } from "../bench/Waiting";
import { StudyTop } from "../bench/StudyTop";
import { TroubleNote } from "../ui/Trouble";
import { Judgement } from "./Judgement";

/** Judging a projection: candidates on held-back periods, and whether anything is left to learn. */
export function ProjectionPage() {
  const { studyId } = useParams();
  return <ProjectionOf key={studyId} id={Number(studyId)} />;
}

function ProjectionOf({ id }: { id: number }) {
  const handle = useBench(id);
  const { kept } = handle;
  const navigate = useNavigate();
  const [entry, setEntry] = useState<string>();
  const projections = kept?.entries.filter((found) => found.kind === "projection" && found.on) ?? [];
  const mine = projections.find((projection) => projection.id === entry) ?? projections[0];
  useKey("g>b", () => void navigate(`/studies/${id}`));
  if (!kept) return <Waiting error={handle.error} />;
  return (
    <div className="page full judging">
      <StudyTop id={id} at="projection" handle={handle} kept={kept} />
      <TroubleNote error={handle.trouble} onClose={handle.dropTrouble} />
      {!mine ? (
        <main className="empty">
          <h2>Nothing is projected yet</h2>
          <p>
            Add a projection to the ledger on the bench; here it is judged on periods that were held back.
          </p>
          <Button type="primary" onClick={() => void navigate(`/studies/${id}`)}>
            To the bench
          </Button>
        </main>
      ) : (
        <main className="judging-body">
          <Judgement
            key={mine.id}
            handle={handle}
            bench={kept}
            entries={projections}
            mine={mine}
            onChooseEntry={setEntry}
          />
        </main>
      )}
    </div>
  );
}
