import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/jetbrains-mono";
import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { ThemeProvider } from "next-themes";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";
import { Problem } from "./api/client";
import { router } from "./routes";
import { system } from "./ui/theme";

const queries: QueryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 30_000,
      retry: (count, error) => !(error instanceof Problem && error.status < 500) && count < 2,
    },
    mutations: {
      onError: (error) => {
        if (error instanceof Problem && error.status === 401) queries.setQueryData(["session"], null);
      },
    },
  },
});
queries.getQueryCache().subscribe((event) => {
  const { error } = event.query.state;
  if (
    event.type === "updated" &&
    event.action.type === "error" &&
    error instanceof Problem &&
    error.status === 401 &&
    event.query.queryKey[0] !== "session"
  ) {
    queries.setQueryData(["session"], null);
  }
});

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <ChakraProvider value={system}>
      <ThemeProvider attribute="class" defaultTheme="system" disableTransitionOnChange>
        <QueryClientProvider client={queries}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </ThemeProvider>
    </ChakraProvider>
  </StrictMode>,
);
