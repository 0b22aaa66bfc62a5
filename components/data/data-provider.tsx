"use client";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { useState } from "react";
import { Toaster } from "sonner";

/** What comes from the server, for everything inside: asked once by key, told again when it changes; and short words about what was done. */
export function DataProvider({ children }: { children: React.ReactNode }) {
  const [client] = useState(
    () =>
      new QueryClient({
        defaultOptions: { queries: { staleTime: 5_000, retry: 1, refetchOnWindowFocus: false } },
      }),
  );
  return (
    <QueryClientProvider client={client}>
      {children}
      <Toaster position="bottom-right" closeButton duration={8000} toastOptions={{ className: "toast-paper" }} />
    </QueryClientProvider>
  );
}
