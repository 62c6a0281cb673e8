import { useState } from "react";
import { methods } from "../methods";
import type { Step } from "./api";
import { MethodsPage } from "./methods";

/** One proof after another, each by a way that the person chooses. */
export function ProvePage(props: Step) {
  const [left, setLeft] = useState("");
  const challenge = props.attempt.challenge;
  if (!challenge || left === challenge.id) {
    return <MethodsPage {...props} />;
  }
  const view = methods[challenge.method];
  return (
    view && (
      <view.Ask
        key={challenge.method}
        {...props}
        onOtherWay={props.attempt.methods.length > 1 ? () => setLeft(challenge.id) : undefined}
      />
    )
  );
}
