import "../shared/tokens.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { FollowLink } from "../methods/email-link/follow";
import { ConfirmPerson } from "../methods/staff-confirmation/confirm";
import { NotMe } from "./not-me";
import { Recovery } from "./recovery";
import { Shell } from "./shell";
import { Notice } from "../shared/ui";
import { texts } from "./texts";

// Without a secure context the browser offers no cryptography: better said at once than found out at the last step.
const usable = window.isSecureContext && crypto.subtle !== undefined && "indexedDB" in window;

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <Shell>
      {!usable ? (
        <Notice tone="bad" title={texts.page.unusable}>
          <p>{texts.page.unusableWhy}</p>
        </Notice>
      ) : window.location.pathname === "/not-me" ? (
        <NotMe />
      ) : window.location.pathname === "/link" ? (
        <FollowLink />
      ) : window.location.pathname === "/confirm" ? (
        <ConfirmPerson />
      ) : (
        <Recovery />
      )}
    </Shell>
  </StrictMode>,
);
