"use client";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { NuqsAdapter } from "nuqs/adapters/next/app";
import { type ReactNode, useState } from "react";
import { ApiProblem } from "../kit/api.ts";
import { Notices } from "../kit/notices.tsx";

/** What every page needs around it. */
export function Providers({ children }: { children: ReactNode }) {
  const [client] = useState(
    () =>
      new QueryClient({
        // What was refused is not asked again; what could not be reached is, a few times.
        defaultOptions: {
          queries: {
            staleTime: 5_000,
            refetchOnWindowFocus: true,
            retry: (count, error) => !(error instanceof ApiProblem && error.status >= 400 && error.status < 500) && count < 3,
          },
        },
      }),
  );
  return (
    <NuqsAdapter>
      <QueryClientProvider client={client}>
        <Notices>{children}</Notices>
      </QueryClientProvider>
    </NuqsAdapter>
  );
}
