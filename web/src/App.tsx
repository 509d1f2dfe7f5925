import { App as AntApp, ConfigProvider } from "antd";
import { useEffect, useMemo, useState } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { useWho } from "./api/queries";
import { SignIn } from "./SignIn";
import { Shelf } from "./shelf/Shelf";
import { BenchPage } from "./shell/BenchPage";
import { antdTheme, cssVariables, dark, light } from "./theme";

const DARK = window.matchMedia("(prefers-color-scheme: dark)");
const STILL = window.matchMedia("(prefers-reduced-motion: reduce)");

function useSystem(query: MediaQueryList): boolean {
  const [on, setOn] = useState(query.matches);
  useEffect(() => {
    const change = () => setOn(query.matches);
    query.addEventListener("change", change);
    return () => query.removeEventListener("change", change);
  }, [query]);
  return on;
}

/** How much larger than usual somebody wants to read: from the browser's own font size. */
const reading = () => (Number.parseFloat(getComputedStyle(document.documentElement).fontSize) || 16) / 16;

export function App() {
  const isDark = useSystem(DARK);
  const still = useSystem(STILL);
  const palette = isDark ? dark : light;
  const motion = !still && !new URLSearchParams(window.location.search).has("plain");
  const theme = useMemo(() => antdTheme(palette, isDark, motion, reading()), [palette, isDark, motion]);
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
