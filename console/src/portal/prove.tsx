import { useState } from "react";
import { methods } from "../methods";
import type { Step } from "./api";
import { MethodsPage } from "./methods";

/** One proof after another, each by a way that the person chooses. */
export function ProvePage(props: Step) {
  const [left, setLeft] = useState("");
  const [before, setBefore] = useState("");
  const challenge = props.attempt.challenge;
  const only = props.attempt.methods.length === 1 ? props.attempt.methods[0]! : "";
  const first = methods[before || (challenge ? "" : only)];
  if (first?.Before) {
    return (
      <first.Before
        {...props}
        onChange={(attempt) => {
          setBefore("");
          props.onChange(attempt);
        }}
        onOtherWay={props.attempt.methods.length > 1 ? () => setBefore("") : undefined}
      />
    );
  }
  if (!challenge || left === challenge.id) {
    return <MethodsPage {...props} onBefore={setBefore} />;
  }
  const view = methods[challenge.method];
  return (
    view && (
      <view.Ask
        key={challenge.method}
        {...props}
        onOtherWay={props.attempt.methods.length > 1 ? () => setLeft(challenge.id) : undefined}
        onAgain={view.Before && (() => setBefore(challenge.method))}
      />
    )
  );
}
