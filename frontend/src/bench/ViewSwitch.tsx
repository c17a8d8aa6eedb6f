import { Segmented } from "antd";
import { useNavigate } from "react-router";

type View = "bench" | "all-series" | "projection" | "picture";

/** The views of a study: decide and read on the bench, look through all series, judge in the projection, dress and hand over the picture. */
export function ViewSwitch({ id, at }: { id: number; at: View }) {
  const navigate = useNavigate();
  return (
    <Segmented
      size="small"
      aria-label="View of the study"
      value={at}
      options={[
        { value: "bench", label: "Bench" },
        { value: "all-series", label: "All series" },
        { value: "projection", label: "Projection" },
        { value: "picture", label: "Picture" },
      ]}
      onChange={(view) => void navigate(view === "bench" ? `/studies/${id}` : `/studies/${id}/${view}`)}
    />
  );
}
