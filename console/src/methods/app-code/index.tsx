import { Smartphone } from "lucide-react";
import { useState } from "react";
import { useOrganisation } from "../../portal/shell";
import { Button, Field } from "../../shared/ui";
import { CodePage } from "../code-page";
import type { Asking, MethodView } from "../method";
import { en as words } from "./en";
import { SetUpApp } from "./set-up";

/** One code of an app has too few digits for everybody who is not known here: two in a row have enough. */
function AskApp(props: Asking) {
  const { knownBrowser } = useOrganisation();
  const [wanted, setWanted] = useState(false);
  // This browser may be known for another person, so after a refusal the page asks for two codes.
  const [tries] = useState(props.attempt.challenge?.triesLeft ?? 0);
  const refused = (props.attempt.challenge?.triesLeft ?? tries) < tries;
  const two = wanted || !knownBrowser || refused;
  const [next, setNext] = useState("");
  return (
    <CodePage
      {...props}
      words={two ? { ...words, what: words.two, tooShort: words.twoShort } : words}
      placeholder="000 000"
      lengths={[6]}
      digits
      more={
        two
          ? {
              typed: next,
              clear: () => setNext(""),
              field: (
                <Field
                  large
                  label={words.next}
                  hint={words.nextHint}
                  name="next-code"
                  inputMode="numeric"
                  autoComplete="off"
                  maxLength={20}
                  placeholder="000 000"
                  className="tracking-widest"
                  value={next}
                  onChange={(event) => setNext(event.target.value)}
                />
              ),
            }
          : undefined
      }
      help={
        !two && (
          <li>
            <Button onClick={() => setWanted(true)} className="mr-2">
              {words.typeTwo}
            </Button>
            <span className="text-muted text-sm">{words.typeTwoWhen}</span>
          </li>
        )
      }
    />
  );
}

const view: MethodView = {
  method: "app-code",
  icon: Smartphone,
  words,
  usually: { tries: "5", alone: "yes" },
  Ask: AskApp,
  setUp: { start: () => words.add, ready: words.ready, Page: SetUpApp },
};
export default view;
