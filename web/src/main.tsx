import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./shell/App";
import "./theme/theme.css";

const cache = new QueryClient({ defaultOptions: { queries: { staleTime: 60_000, refetchOnWindowFocus: true } } });
const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={cache}>
        <App />
      </QueryClientProvider>
    </StrictMode>,
  );
