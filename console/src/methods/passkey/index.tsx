import { Fingerprint } from "lucide-react";
import { AuthenticatorPage, RegisterPage } from "../authenticator-page";
import type { MethodView } from "../method";
import { en as words } from "./en";

const view: MethodView = {
  method: "passkey",
  icon: Fingerprint,
  words,
  usually: { life: "5m", tries: "5", alone: "yes" },
  // The browser asks for any passkey of this service; nothing here tells whose there are.
  Ask: (props) => <AuthenticatorPage {...props} words={words} />,
  setUp: {
    start: () => words.add,
    ready: words.ready,
    Page: (props) => <RegisterPage {...props} words={words} />,
  },
};
export default view;
