import { Tabs } from "antd";
import type { Bench } from "../api/client";
import { Evidence } from "./Evidence";
import { MethodNote } from "./MethodNote";
import { Values } from "./Values";

interface Props {
  bench: Bench;
  studyId: number;
  tab: string;
  onTab: (tab: string) => void;
  selected: string | undefined;
  period: number | undefined;
  onPeriod: (period: number | undefined) => void;
}

export function Dock({ bench, studyId, tab, onTab, selected, period, onPeriod }: Props) {
  return (
    <Tabs
      className="dock"
      activeKey={tab}
      onChange={onTab}
      items={[
        { key: "evidence", label: "Evidence", children: <Evidence bench={bench} selected={selected} /> },
        {
          key: "values",
          label: "Values",
          children: <Values bench={bench} studyId={studyId} period={period} onPeriod={onPeriod} />,
        },
        {
          key: "note",
          label: "Method note",
          children: <MethodNote studyId={studyId} revision={bench.study.revision} />,
        },
      ]}
    />
  );
}
