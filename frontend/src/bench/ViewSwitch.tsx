import { Segmented } from "antd";
import { useNavigate } from "react-router";

/** The views of a study: decide and read on the bench, judge in the projection. */
export function ViewSwitch({ id, at }: { id: number; at: "bench" | "projection" }) {
  const navigate = useNavigate();
  return (
    <Segmented
      aria-label="View of the study"
      value={at}
      options={[
        { value: "bench", label: "Bench" },
        { value: "projection", label: "Projection" },
      ]}
      onChange={(view) => void navigate(view === "bench" ? `/studies/${id}` : `/studies/${id}/projection`)}
    />
  );
}
