import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { lazy, Suspense, useEffect, useMemo, useState } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { StudiesPage } from "../studies/StudiesPage";
import { Help } from "../manual/Help";
import { ErrorFence } from "./ErrorFence";
import { LookContext } from "./look";
import { NothingHere } from "./NothingHere";
import { dark, light } from "../figure/palette";
import { componentTheme } from "./theme";

// what draws is large, and the list of studies draws nothing
const BenchPage = lazy(() => import("../bench/BenchPage").then((module) => ({ default: module.BenchPage })));
const AllSeriesPage = lazy(() =>
  import("../allseries/AllSeriesPage").then((module) => ({ default: module.AllSeriesPage })),
);
const ProjectionPage = lazy(() =>
  import("../projection/ProjectionPage").then((module) => ({ default: module.ProjectionPage })),
);
const PicturePage = lazy(() =>
  import("../picture/PicturePage").then((module) => ({ default: module.PicturePage })),
);
const SnapshotPage = lazy(() =>
  import("../picture/SnapshotPage").then((module) => ({ default: module.SnapshotPage })),
);
const KeepingPage = lazy(() =>
  import("../keeping/KeepingPage").then((module) => ({ default: module.KeepingPage })),
);
const IntakePage = lazy(() =>
  import("../intake/IntakePage").then((module) => ({ default: module.IntakePage })),
);

const NewRowsPage = lazy(() =>
  import("../newrows/NewRowsPage").then((module) => ({ default: module.NewRowsPage })),
);
const ManualPage = lazy(() =>
  import("../manual/ManualPage").then((module) => ({ default: module.ManualPage })),
);
const SaidPage = lazy(() => import("../newrows/SaidPage").then((module) => ({ default: module.SaidPage })));

const queries = new QueryClient({
  defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false, staleTime: Infinity } },
});
const THEME_KEY = "zembra.theme";

export function App() {
  const [isDark, setDark] = useState(() => localStorage.getItem(THEME_KEY) === "dark");
  const palette = isDark ? dark : light;
  useEffect(() => {
    document.documentElement.dataset.theme = isDark ? "dark" : "light";
    localStorage.setItem(THEME_KEY, isDark ? "dark" : "light");
  }, [isDark]);
  const look = useMemo(
    () => ({ palette, dark: isDark, toggle: () => setDark((on) => !on) }),
    [palette, isDark],
  );
  return (
    <QueryClientProvider client={queries}>
      <LookContext.Provider value={look}>
        <ConfigProvider theme={componentTheme(palette, isDark)} wave={{ disabled: true }}>
          <AntApp component={false}>
            <BrowserRouter>
              <ErrorFence>
                <Suspense fallback={<p className="empty muted">One moment…</p>}>
                  <Routes>
                    <Route path="/" element={<StudiesPage />} />
                    <Route path="/intake" element={<IntakePage />} />
                    <Route path="/intake/:datasetId" element={<IntakePage />} />
                    <Route path="/studies/:studyId" element={<BenchPage />} />
                    <Route path="/studies/:studyId/all-series" element={<AllSeriesPage />} />
                    <Route path="/studies/:studyId/projection" element={<ProjectionPage />} />
                    <Route path="/studies/:studyId/picture" element={<PicturePage />} />
                    <Route path="/studies/:studyId/snapshots/:snapshotId" element={<SnapshotPage />} />
                    <Route path="/studies/:studyId/new-rows" element={<NewRowsPage />} />
                    <Route path="/studies/:studyId/said" element={<SaidPage />} />
                    <Route path="/manual/:page?" element={<ManualPage />} />
                    <Route path="/keeping" element={<KeepingPage />} />
                    <Route path="*" element={<NothingHere />} />
                  </Routes>
                </Suspense>
              </ErrorFence>
              <Help />
            </BrowserRouter>
          </AntApp>
        </ConfigProvider>
      </LookContext.Provider>
    </QueryClientProvider>
  );
}
