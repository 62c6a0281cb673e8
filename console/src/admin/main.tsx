import "../shared/tokens.css";
import { MutationCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider, createBrowserRouter } from "react-router";
import { Problem } from "../shared/problem";
import { Attempt, Audit } from "./audit";
import { Cases } from "./cases";
import { Connect } from "./connect";
import { Deliveries } from "./deliveries";
import { Directories, Directory } from "./directories";
import { Frame } from "./frame";
import { People, Person } from "./people";
import { Failed, Nowhere } from "./failed";
import { Files } from "./files";
import { Policies } from "./policies";
import { PagesBeside } from "./parts";
import { RehearsalPage } from "./rehearsal";
import { Revisions } from "./revisions";
import { Scopes } from "./scopes";
import { Rules } from "./rules";
import { Settings } from "./settings";
import { PressurePage } from "./pressure";
import { Stops } from "./stops";
import { changeFailed } from "./told";
import { First, FirstSecondFactor, SignIn } from "./sign-in";
import { Today } from "./today";
import "./theme";

// Radix puts styles into the page; they carry the nonce that the service gave this answer.
const nonce = document.querySelector<HTMLElement>("script[nonce], link[nonce], style[nonce]")?.nonce;
if (nonce) setNonce(nonce);

const queries = new QueryClient({
  mutationCache: new MutationCache({
    onError: (problem, _asked, _context, mutation) => {
      if (!mutation.meta?.saidHere) changeFailed(problem);
    },
  }),
  defaultOptions: {
    queries: {
      retry: (count, error) => !(error instanceof Problem && error.status >= 400 && error.status < 500) && count < 3,
      refetchOnWindowFocus: true,
    },
  },
});

const aboutDirectories = [
  { to: "/directories", title: "All directories" },
  { to: "/directories/deliveries", title: "Deliveries" },
  { to: "/directories/in-doubt", title: "In doubt" },
];

const aboutAudit = [
  { to: "/audit", title: "Attempts" },
  { to: "/audit/pressure", title: "Pressure" },
];

const aboutPolicies = [
  { to: "/policies", title: "Policies" },
  { to: "/policies/scopes", title: "Scopes" },
  { to: "/policies/rules", title: "Rules" },
  { to: "/policies/rehearsal", title: "Rehearsal" },
  { to: "/policies/files", title: "Files" },
  { to: "/policies/revisions", title: "Revisions" },
];

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
            { index: true, element: <Today /> },
            {
              element: <PagesBeside label="About directories" pages={aboutDirectories} />,
              children: [
                { path: "directories", element: <Directories /> },
                { path: "directories/deliveries", element: <Deliveries /> },
                { path: "directories/in-doubt", element: <Cases /> },
              ],
            },
            { path: "directories/connect", element: <Connect /> },
            { path: "directories/:name", element: <Directory /> },
            { path: "people", element: <People /> },
            { path: "people/:id", element: <Person /> },
            {
              path: "policies",
              element: <PagesBeside label="Policies" pages={aboutPolicies} />,
              children: [
                { index: true, element: <Policies /> },
                { path: "scopes", element: <Scopes /> },
                { path: "rules", element: <Rules /> },
                { path: "rehearsal", element: <RehearsalPage /> },
                { path: "files", element: <Files /> },
                { path: "revisions", element: <Revisions /> },
              ],
            },
            { path: "settings", element: <Settings /> },
            { path: "stops", element: <Stops /> },
            {
              element: <PagesBeside label="Audit" pages={aboutAudit} />,
              children: [
                { path: "audit", element: <Audit /> },
                { path: "audit/pressure", element: <PressurePage /> },
              ],
            },
            { path: "audit/attempts/:reference", element: <Attempt /> },
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
