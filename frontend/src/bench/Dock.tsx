import { Tabs } from "antd";
import { lazy, Suspense } from "react";
import type { Bench } from "../api/client";
import type { Stretch } from "./ConditionStrip";
import { Evidence } from "./Evidence";
import type { BenchHandle } from "./useBench";
import type { useFollowUp } from "./useFollowUp";
import type { ShownWindow } from "./window";

// what the bench does not show at first is sent when it is looked at
const FollowUp = lazy(() => import("./FollowUp").then((module) => ({ default: module.FollowUp })));
const MethodNote = lazy(() => import("./MethodNote").then((module) => ({ default: module.MethodNote })));
const Values = lazy(() => import("./Values").then((module) => ({ default: module.Values })));

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
          children: (
            <Suspense>
              <Values bench={bench} studyId={studyId} onStretch={onStretch} />
            </Suspense>
          ),
        },
        {
          key: "follow-up",
          label: <>Follow-up{follow.list?.open ? <b className="tab-count"> {follow.list.open}</b> : null}</>,
          children: (
            <Suspense>
              <FollowUp follow={follow} shown={shown} />
            </Suspense>
          ),
        },
        {
          key: "note",
          label: "Method note",
          children: (
            <Suspense>
              <MethodNote studyId={studyId} revision={bench.study.revision} />
            </Suspense>
          ),
        },
      ]}
    />
  );
}
