import { Mail } from "lucide-react";
import { CodePage } from "../code-page";
import { AddressPage, severalAddresses } from "../address-page";
import type { MethodView } from "../method";
import { en as words } from "./en";

const view: MethodView = {
  method: "email-code",
  icon: Mail,
  words,
  usually: { life: "10m", tries: "5", alone: "yes" },
  // Mostly eight digits; sixteen letters and digits where those could be guessed by now.
  Before: (props) => <AddressPage {...props} method="email-code" />,
  wantsBefore: severalAddresses,
  Ask: (props) => <CodePage {...props} words={words} placeholder="0000 0000" lengths={[8, 16]} sent />,
};
export default view;
