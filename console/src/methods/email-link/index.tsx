import { MailOpen } from "lucide-react";
import { useOrganisation } from "../../portal/shell";
import { AddressPage, severalAddresses } from "../address-page";
import type { Asking, MethodView } from "../method";
import { WaitingPage } from "../waiting-page";
import { en as words } from "./en";

function AskMailbox(asking: Asking) {
  const { organisation } = useOrganisation();
  return (
    <WaitingPage {...asking} method="email-link" words={{ ...words, what: words.what(organisation) }}>
      <li>{words.first}</li>
      <li>{words.notMine}</li>
    </WaitingPage>
  );
}

const view: MethodView = {
  method: "email-link",
  icon: MailOpen,
  words: { ...words },
  usually: { life: "10m", tries: "5", alone: "yes" },
  Before: (props) => <AddressPage {...props} method="email-link" />,
  wantsBefore: severalAddresses,
  Ask: AskMailbox,
};
export default view;
