import { Headset } from "lucide-react";
import { useOrganisation } from "../../portal/shell";
import type { Asking, MethodView } from "../method";
import { WaitingPage } from "../waiting-page";
import { en as words } from "./en";

function AskStaff(asking: Asking) {
  const { helpDesk } = useOrganisation();
  return (
    <WaitingPage {...asking} method="staff-confirmation" words={{ ...words, what: words.what(helpDesk) }}>
      <li>{words.first}</li>
      <li>{words.notMine}</li>
    </WaitingPage>
  );
}

const view: MethodView = {
  method: "staff-confirmation",
  icon: Headset,
  words: { ...words },
  usually: { life: "20m", tries: "5", alone: "no" },
  Ask: AskStaff,
};
export default view;
