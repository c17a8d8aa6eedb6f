import { Tabs } from "antd";
import type { Bench } from "../api/client";
import type { Stretch } from "./ConditionStrip";
import { Evidence } from "./Evidence";
import { FollowUp, type useFollowUp } from "./FollowUp";
import { MethodNote } from "./MethodNote";
import type { BenchHandle } from "./useBench";
import { Values } from "./Values";
import type { ShownWindow } from "./window";

interface Props {
  handle: BenchHandle;
  follow: ReturnType<typeof useFollowUp>;
  shown: ShownWindow;
  bench: Bench;
  studyId: number;
  tab: string;
  onTab: (tab: string) => void;
  selected: string | undefined;
  onStretch: (stretch: Stretch) => void;
}

export function Dock({ handle, follow, shown, bench, studyId, tab, onTab, selected, onStretch }: Props) {
  return (
    <Tabs
      className="dock"
      activeKey={tab}
      onChange={onTab}
      onTabClick={onTab}
      items={[
        {
          key: "evidence",
          label: "Evidence",
          children: <Evidence handle={handle} bench={bench} selected={selected} />,
        },
        {
          key: "values",
          label: "Values",
          children: <Values bench={bench} studyId={studyId} onStretch={onStretch} />,
        },
        {
          key: "follow-up",
          label: <>Follow-up{follow.list?.open ? <b className="tab-count"> {follow.list.open}</b> : null}</>,
          children: <FollowUp follow={follow} shown={shown} />,
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
