import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { Problem, Unreachable } from "./api/client";
import { sessionOptions } from "./api/queries";
import { reachNow } from "./outbox/reach";
import "./styles.css";
import { applyLook } from "./ui/theme";

applyLook();

// What the server refuses is not asked again; what did not reach it is.
const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, e) => e instanceof Unreachable && count < 2 && reachNow().reached,
      retryDelay: 800,
      networkMode: "always",
      staleTime: 30_000, // other screens' changes come by themselves
      refetchOnWindowFocus: false,
    },
  },
});

// A session that ended is noticed wherever it is noticed first.
const noticeSignedOut = (e: unknown) => {
  if (e instanceof Problem && e.body.code === "not-signed-in") client.setQueryData(sessionOptions.queryKey, null);
};
client.getQueryCache().config.onError = noticeSignedOut;
client.getMutationCache().config.onError = noticeSignedOut;

// A customer on a phone fetches the one page that their link opens, and nothing of the shop's.
const token = /^\/o\/([^/]+)\/?$/.exec(window.location.pathname)?.[1];
const CustomersPage = lazy(async () => ({ default: (await import("./screens/owner/OwnerPage")).OwnerPage }));
const Shop = lazy(() => import("./App"));

const root = document.getElementById("root");
if (!root) throw new Error("the page has no root");
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <Suspense fallback={null}>{token === undefined ? <Shop /> : <CustomersPage token={token} />}</Suspense>
    </QueryClientProvider>
  </StrictMode>,
);
