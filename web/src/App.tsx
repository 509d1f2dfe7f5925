import { App as AntApp, ConfigProvider } from "antd";
import { useEffect, useMemo, useState } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { useWho } from "./api/queries";
import { SignIn } from "./SignIn";
import { Shelf } from "./shelf/Shelf";
import { BenchPage } from "./shell/BenchPage";
import { antdTheme, cssVariables, dark, light } from "./theme";

const query = window.matchMedia("(prefers-color-scheme: dark)");

function useSystemDark(): boolean {
  const [isDark, setDark] = useState(query.matches);
  useEffect(() => {
    const change = () => setDark(query.matches);
    query.addEventListener("change", change);
    return () => query.removeEventListener("change", change);
  }, []);
  return isDark;
}

export function App() {
  const isDark = useSystemDark();
  const palette = isDark ? dark : light;
  const motion = !new URLSearchParams(window.location.search).has("plain");
  const theme = useMemo(() => antdTheme(palette, isDark, motion), [palette, isDark, motion]);
  const { data: who } = useWho();
  return (
    <ConfigProvider theme={theme}>
      <style>{`:root { ${cssVariables(palette)} color-scheme: ${isDark ? "dark" : "light"}; }`}</style>
      <AntApp>
        {who === undefined ? null : who.user === "" ? (
          <SignIn />
        ) : (
          <BrowserRouter>
            <Routes>
              <Route path="/jobs/:id" element={<BenchPage palette={palette} />} />
              <Route path="*" element={<Shelf user={who.user} />} />
            </Routes>
          </BrowserRouter>
        )}
      </AntApp>
    </ConfigProvider>
  );
}
