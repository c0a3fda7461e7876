import "./styles/index.css";
import { MantineProvider } from "@mantine/core";
import { Notifications } from "@mantine/notifications";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { router } from "./app/router";
import { theme, variables } from "./app/theme";

// The service may well be on this machine: whether the browser thinks that it is online says nothing.
const queries = new QueryClient({
  defaultOptions: {
    queries: { retry: 1, staleTime: 2_000, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <MantineProvider theme={theme} cssVariablesResolver={variables} defaultColorScheme="auto">
        {/* At the foot: at the top they would lie over the buttons that are pressed next. */}
        <Notifications position="bottom-center" />
        <QueryClientProvider client={queries}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </MantineProvider>
    </StrictMode>,
  );
}
