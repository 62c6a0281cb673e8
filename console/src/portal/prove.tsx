import { useState } from "react";
import { before as beforeOf, methods } from "../methods";
import type { Step } from "./api";
import { useBack } from "./back";
import { MethodsPage } from "./methods";

/** One proof after another, each by a way that the person chooses. */
export function ProvePage(props: Step) {
  const [left, setLeft] = useState("");
  const [before, setBefore] = useState("");
  const challenge = props.attempt.challenge;
  const only = props.attempt.methods.length === 1 ? props.attempt.methods[0]! : "";
  const several = props.attempt.methods.length > 1;
  const asks = Boolean(challenge) && left !== challenge.id;
  useBack(before ? () => setBefore("") : asks && several ? () => setLeft(challenge.id) : undefined);
  const First = beforeOf(before || (challenge ? "" : only), props.attempt);
  if (First) {
    return (
      <First
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
        onAgain={beforeOf(challenge.method, props.attempt) && (() => setBefore(challenge.method))}
      />
    )
  );
}
