import { Smartphone } from "lucide-react";
import type { Asking, MethodView } from "../method";
import { WaitingPage } from "../waiting-page";
import { en as words } from "./en";
import { SetUpDevice } from "./set-up";

function AskDevice(asking: Asking) {
  return (
    <WaitingPage {...asking} method="push" words={words}>
      <li>{words.first}</li>
      <li>{words.notMine}</li>
    </WaitingPage>
  );
}

const view: MethodView = {
  method: "push",
  icon: Smartphone,
  words,
  usually: { life: "3m", tries: "5", alone: "yes" },
  Ask: AskDevice,
  setUp: { start: () => words.add, ready: words.ready, Page: SetUpDevice },
};
export default view;
