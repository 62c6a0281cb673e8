import { Headset } from "lucide-react";
import { useOrganisation } from "../../portal/shell";
import type { Asking, MethodView, SettingUp } from "../method";
import { SetUpQuestions } from "../questions/set-up";
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

function SetUpSpoken(setting: SettingUp) {
  return <SetUpQuestions {...setting} title={words.addTitle} what={words.addWhat} />;
}

const view: MethodView = {
  method: "staff-confirmation",
  icon: Headset,
  words: { ...words },
  usually: { life: "20m", tries: "5", alone: "no" },
  Ask: AskStaff,
  setUp: { start: () => words.add, ready: words.ready, Page: SetUpSpoken },
};
export default view;
