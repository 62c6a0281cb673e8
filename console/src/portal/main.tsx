import "../shared/tokens.css";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { Recovery } from "./recovery";
import { Shell } from "./shell";
import { Notice } from "../shared/ui";
import { texts } from "./texts";

// What a mail's link opens, and nobody else needs.
const FollowLink = lazy(async () => ({ default: (await import("../methods/email-link/follow")).FollowLink }));
const ConfirmPerson = lazy(async () => ({
  default: (await import("../methods/staff-confirmation/confirm")).ConfirmPerson,
}));
const NotMe = lazy(async () => ({ default: (await import("./not-me")).NotMe }));
const Quiet = lazy(async () => ({ default: (await import("./quiet")).Quiet }));

// Without a secure context the browser offers no cryptography: better said at once than found out at the last step.
const usable = window.isSecureContext && crypto.subtle !== undefined && "indexedDB" in window;

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <Shell>
      <Suspense>
        {!usable ? (
          <Notice tone="bad" title={texts.page.unusable}>
            <p>{texts.page.unusableWhy}</p>
          </Notice>
        ) : window.location.pathname === "/not-me" ? (
          <NotMe />
        ) : window.location.pathname === "/quiet" ? (
          <Quiet />
        ) : window.location.pathname === "/link" ? (
          <FollowLink />
        ) : window.location.pathname === "/confirm" ? (
          <ConfirmPerson />
        ) : (
          <Recovery />
        )}
      </Suspense>
    </Shell>
  </StrictMode>,
);
