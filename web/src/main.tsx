import "@fontsource-variable/public-sans";
import "@fontsource-variable/spline-sans-mono";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./App";
import "./ui/base.css";
import "./ui/parts.css";
import "./shell/shell.css";
import "./shelf/shelf.css";
import "./intake/intake.css";
import "./job/job.css";
import "./values/values.css";
import "./steps/steps.css";
import "./sheets/sheets.css";
import "./pick/pick.css";
import "./handles/handles.css";
import "./view/view.css";
import "./scan/scan.css";
import "./section/section.css";
import "./regions/regions.css";
import "./construct/construct.css";
import "./history/history.css";
import "./desk/desk.css";
import "./actions/actions.css";

// The server is most often on this very machine: whether there is a network says nothing of it.
const client = new QueryClient({
  defaultOptions: {
    queries: { retry: 1, refetchOnWindowFocus: true, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <App />
    </QueryClientProvider>
  </StrictMode>,
);
