import { MessageSquare } from "lucide-react";
import { CodePage } from "../code-page";
import type { MethodView } from "../method";
import { NumberPage } from "../number-page";
import { en as words } from "./en";

const view: MethodView = {
  method: "sms-code",
  icon: MessageSquare,
  words,
  usually: { life: "10m", tries: "5", alone: "yes" },
  Before: (props) => <NumberPage {...props} method="sms-code" words={words} />,
  Ask: (props) => <CodePage {...props} words={words} placeholder="0000 0000" lengths={[8, 16]} sent />,
};
export default view;
