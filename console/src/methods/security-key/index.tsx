import { KeyRound } from "lucide-react";
import { AuthenticatorPage, RegisterPage } from "../authenticator-page";
import type { MethodView } from "../method";
import { en as words } from "./en";

const view: MethodView = {
  method: "security-key",
  icon: KeyRound,
  words,
  usually: { life: "5m", tries: "5", alone: "no" },
  Ask: (props) => <AuthenticatorPage {...props} words={words} />,
  setUp: {
    start: () => words.add,
    ready: words.ready,
    Page: (props) => <RegisterPage {...props} words={words} />,
  },
};
export default view;
