import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { said } from "../shared/problem";
import { Button, Field } from "../shared/ui";
import { methods } from "../methods";
import type { Explanation } from "./api";
import { ask } from "./queries";

interface Screen {
  title: string;
  says: string;
  field?: string;
  choices?: string[];
}

const numbers = ["", "one", "two", "three", "four", "five"];

/** The pages that somebody meets, in order, as the portal shows them. */
function screens(one: Explanation): Screen[] {
  const usable = one.methods.filter((method) => method.usable).map((method) => method.method);
  const asked = one.required?.methods ?? 1;
  const fact = (name: string) => one.facts.find((other) => other.name === name)?.value ?? "";
  const chosen = usable.length > 1 || asked > 1;
  const first: Screen = { title: "Your sign-in name", says: "The name they type when they sign in.", field: "Name" };
  if (!one.possible) {
    return [
      first,
      {
        title: methods[usable[0] ?? "email-code"]!.words.title,
        says: "A code that never arrives, just like for a name that doesn’t exist.",
        field: "Code",
      },
    ];
  }
  return [
    first,
    ...(chosen
      ? [
          {
            title: "Confirm that it’s you",
            says: asked > 1 ? `With ${numbers[asked]} of these, one after the other.` : "With one of these.",
            choices: usable.map((method) => methods[method]?.words.name ?? method),
          },
        ]
      : usable.map((method) => ({
          title: methods[method]?.words.title ?? method,
          says: methods[method]?.words.about ?? "",
          field: methods[method]?.words.field,
        }))),
    ...(fact("terms") && fact("terms") !== "none"
      ? [{ title: "Before you go on", says: `The terms ${fact("terms")}, to be accepted.` }]
      : []),
    {
      title: "Choose a new password",
      says: `By the rule set ${fact("password")}, as they type.`,
      field: "New password",
    },
    { title: "Your new password works", says: `The result in each of ${fact("deliver.to")}.` },
  ];
}

/** The pages as one chosen person would meet them, with the draft where there is one. */
export function AsOnePerson({ draft }: { draft?: string }) {
  const [typed, setTyped] = useState("");
  const [who, setWho] = useState("");
  const explained = useQuery({
    ...ask.explanation(who, { action: "reset", network: "", at: "" }, draft),
    enabled: who !== "",
    retry: false,
  });
  const one = explained.data;
  return (
    <div>
      <form
        className="flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          setWho(typed.trim());
        }}
      >
        <Field
          label="Try as one person"
          placeholder="sign-in name"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        <Button type="submit">Show</Button>
      </form>
      {explained.error && (
        <p role="alert" className="text-bad text-sm">
          {said(explained.error)}
        </p>
      )}
      {one && (
        <div className="mt-3 text-sm">
          <p className="font-medium">
            {one.name}, by {one.policy || "no policy"}
          </p>
          {!one.possible && <p className="text-bad">{one.obstacles[0]?.cause}</p>}
          {one.required?.because.map((because) => (
            <p key={because} className="text-muted">
              {because}
            </p>
          ))}
          <ol aria-label="Pages" className="mt-2 flex flex-col gap-2">
            {screens(one).map((screen) => (
              <li key={screen.title} className="border-line bg-canvas rounded-md border p-2.5">
                <p className="font-semibold">{screen.title}</p>
                <p className="text-muted">{screen.says}</p>
                {screen.choices?.map((choice) => (
                  <p key={choice} className="border-line bg-surface mt-1.5 rounded-md border px-2 py-1">
                    {choice}
                  </p>
                ))}
                {screen.field && (
                  <p className="border-control text-muted bg-surface mt-1.5 rounded-md border px-2 py-1">
                    {screen.field}
                  </p>
                )}
              </li>
            ))}
          </ol>
        </div>
      )}
    </div>
  );
}
