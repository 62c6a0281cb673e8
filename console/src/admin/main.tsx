import "../shared/tokens.css";
import { MutationCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider, createBrowserRouter } from "react-router";
import { Problem } from "../shared/problem";
import { Frame } from "./frame";
import { Failed, Nowhere } from "./failed";
import { type Page, places } from "./page";
import { PagesBeside } from "./parts";
import { beside, pages } from "./registry";
import { changeFailed } from "./told";
import { First, FirstSecondFactor, SignIn } from "./sign-in";
import "./theme";

// Radix puts styles into the page; they carry the nonce that the service gave this answer.
const nonce = document.querySelector<HTMLElement>("script[nonce], link[nonce], style[nonce]")?.nonce;
if (nonce) setNonce(nonce);

const queries: QueryClient = new QueryClient({
  mutationCache: new MutationCache({
    onError: (problem, _asked, _context, mutation) => {
      if (!mutation.meta?.saidHere) changeFailed(problem);
    },
    onSettled: (_answer, _problem, _asked, _context, mutation) => {
      const { touches, goesOn } = mutation.meta ?? {};
      if (touches?.length === 0) return;
      const asked = queries.invalidateQueries(
        touches && { predicate: ({ queryKey }) => touches.includes(String(queryKey[0])) },
      );
      return goesOn ? undefined : asked;
    },
  }),
  defaultOptions: {
    queries: {
      retry: (count, error) => !(error instanceof Problem && error.status >= 400 && error.status < 500) && count < 3,
      refetchOnWindowFocus: true,
    },
  },
});

const route = ({ path, element: Element }: Page) =>
  path === "" ? { index: true as const, element: <Element /> } : { path, element: <Element /> };

const router = createBrowserRouter(
  [
    { path: "/sign-in", element: <SignIn /> },
    { path: "/first", element: <First /> },
    { path: "/second-factor", element: <FirstSecondFactor /> },
    {
      path: "/",
      element: <Frame />,
      children: [
        {
          errorElement: <Failed />,
          children: [
            ...places.map((place) => ({
              element: <PagesBeside pages={beside(place)} />,
              children: beside(place).map(route),
            })),
            ...pages.filter((page) => !page.beside).map(route),
            { path: "*", element: <Nowhere /> },
          ],
        },
      ],
    },
  ],
  { basename: "/console" },
);

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
