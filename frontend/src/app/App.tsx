import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { useEffect, useMemo, useState } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { BenchPage } from "../bench/BenchPage";
import { IntakePage } from "../intake/IntakePage";
import { StudiesPage } from "../studies/StudiesPage";
import { ErrorFence } from "./ErrorFence";
import { KeySheet } from "./KeySheet";
import { LookContext } from "./look";
import { NothingHere } from "./NothingHere";
import { componentTheme, dark, light } from "./theme";

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
                <Routes>
                  <Route path="/" element={<StudiesPage />} />
                  <Route path="/intake" element={<IntakePage />} />
                  <Route path="/intake/:datasetId" element={<IntakePage />} />
                  <Route path="/studies/:studyId" element={<BenchPage />} />
                  <Route path="*" element={<NothingHere />} />
                </Routes>
              </ErrorFence>
              <KeySheet />
            </BrowserRouter>
          </AntApp>
        </ConfigProvider>
      </LookContext.Provider>
    </QueryClientProvider>
  );
}
