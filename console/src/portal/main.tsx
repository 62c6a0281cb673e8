import "../shared/tokens.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { NotMe } from "./not-me";
import { Recovery } from "./recovery";
import { Shell } from "./shell";
import { Notice } from "../shared/ui";

// Without a secure context the browser offers no cryptography: better said at once than found out at the last step.
const usable = window.isSecureContext && crypto.subtle !== undefined && "indexedDB" in window;

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <Shell>
      {!usable ? (
        <Notice tone="bad" title="This page cannot work here">
          <p>
            Your password is encrypted on your own device, and this browser only allows that over a protected
            connection. Open the address with https:// in front, or use a current browser.
          </p>
        </Notice>
      ) : window.location.pathname === "/not-me" ? (
        <NotMe />
      ) : (
        <Recovery />
      )}
    </Shell>
  </StrictMode>,
);
