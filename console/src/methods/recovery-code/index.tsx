import { FileKey2, Printer } from "lucide-react";
import { Heading } from "../../portal/heading";
import { useOrganisation } from "../../portal/shell";
import { Button } from "../../shared/ui";
import { CodePage } from "../code-page";
import type { MethodView, SettingUp } from "../method";
import { en as words } from "./en";

function CodesPage({ offered, onConfirm }: SettingUp) {
  const { organisation } = useOrganisation();
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <Heading>{words.yours}</Heading>
        <p className="text-muted">{words.keep(organisation)}</p>
      </div>
      <ul className="border-line bg-surface grid grid-cols-2 gap-2 rounded-lg border p-4 font-mono">
        {offered.lines.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ul>
      <Button large onClick={() => window.print()}>
        <Printer aria-hidden className="size-4" />
        {words.print}
      </Button>
      <Button look="primary" large onClick={() => onConfirm({})}>
        {words.saved}
      </Button>
    </div>
  );
}

const view: MethodView = {
  method: "recovery-code",
  icon: FileKey2,
  words,
  usually: { tries: "5", alone: "no" },
  Ask: (props) => (
    <CodePage {...props} words={words} placeholder="abcd-efg2-345h" lengths={[10, 14]} autoComplete="off" />
  ),
  listed: (one) => words.left(one.left),
  setUp: {
    start: (has) => (has ? words.createNew : words.create),
    ready: words.ready,
    Page: CodesPage,
  },
};
export default view;
