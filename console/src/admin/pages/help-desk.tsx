import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { inLanguage } from "../../methods/questions/texts";
import { Checklist } from "../../methods/staff-confirmation/checklist";
import { said } from "../../shared/problem";
import { Badge, Button, Field, Notice } from "../../shared/ui";
import { api, data } from "../api";
import type { HelpRequest } from "../api";
import type { Page } from "../page";
import { Facts, PageHead, Section, Time } from "../parts";

const actions: Record<HelpRequest["action"], string> = {
  reset: "reset their password",
  unlock: "unlock their account",
  change: "change their password",
  details: "change how they’re recognised",
  temporary: "get a temporary password",
};

/** Finds what a caller asks for by the number on their screen, and confirms who they are by the policy's checklist. */
function HelpDesk() {
  const [login, setLogin] = useState("");
  const [number, setNumber] = useState("");
  const [outcome, setOutcome] = useState<{ tone: "ok" | "info"; text: string }>();
  const find = useMutation({
    meta: { touches: [], saidHere: true },
    mutationFn: () => data(api.POST("/api/v1/help-desk/requests/find", { body: { login, number } })),
    onMutate: () => setOutcome(undefined),
  });
  const done = (tone: "ok" | "info", text: string) => {
    find.reset();
    setLogin("");
    setNumber("");
    setOutcome({ tone, text });
  };
  return (
    <>
      <PageHead
        title="Help desk"
        under="Confirm who a caller is, so that they can go on by themselves. You never see or set a password."
      />
      {outcome && <Notice tone={outcome.tone}>{outcome.text}</Notice>}
      {find.data ? (
        <Asked key={find.data.id} request={find.data as HelpRequest} onBack={() => find.reset()} onDone={done} />
      ) : (
        <Section title="Find the request">
          <form
            className="flex max-w-xl flex-col gap-4"
            noValidate
            onSubmit={(event) => {
              event.preventDefault();
              find.mutate();
            }}
          >
            <Field
              label="Caller’s sign-in name"
              autoComplete="off"
              autoCapitalize="none"
              spellCheck={false}
              value={login}
              onChange={(event) => setLogin(event.target.value)}
            />
            <Field
              label="Number on the caller’s screen"
              hint="Six digits. It shows that the caller sits in front of the page that asks"
              inputMode="numeric"
              autoComplete="off"
              maxLength={7}
              value={number}
              onChange={(event) => setNumber(event.target.value.replace(/\D/g, ""))}
              error={find.error ? said(find.error) : undefined}
            />
            <Button type="submit" look="primary" busy={find.isPending} className="self-start">
              Find
            </Button>
          </form>
        </Section>
      )}
    </>
  );
}

function Asked({
  request,
  onBack,
  onDone,
}: {
  request: HelpRequest;
  onBack: () => void;
  onDone: (tone: "ok" | "info", text: string) => void;
}) {
  const [checked, setChecked] = useState<string[]>([]);
  const [note, setNote] = useState("");
  const [heard, setHeard] = useState<string[]>(() => request.spoken.map(() => ""));
  const params = { params: { path: { id: request.id } } };
  const confirm = useMutation({
    meta: { touches: ["attempts"], saidHere: true },
    mutationFn: () =>
      data(api.POST("/api/v1/help-desk/requests/{id}/confirmation", { ...params, body: { checked, heard, note } })),
    onSuccess: ({ complete }) =>
      complete
        ? onDone("ok", `${request.name} is confirmed, and goes on in their own browser.`)
        : onDone(
            "info",
            `${request.name} is privileged, so someone else at the help desk has to confirm, too, with the same name and number.`,
          ),
  });
  const deny = useMutation({
    meta: { touches: ["attempts"], saidHere: true },
    mutationFn: () => data(api.POST("/api/v1/help-desk/requests/{id}/denial", { ...params, body: { note } })),
    onSuccess: () => onDone("info", `Denied. ${request.name} and the administrators are told.`),
  });
  const ready =
    request.checklist.every((one) => checked.includes(one)) && heard.every((answer) => answer.trim().length > 0);
  const problem = confirm.error ?? deny.error;
  return (
    <>
      <Section title={request.name}>
        <Facts
          facts={[
            ["Wants to", actions[request.action]],
            ["Signs in as", request.login],
            ["Department", request.department ?? "not known"],
            ["Asked from", request.network],
            ["Asked", <Time key="asked" at={request.askedAt} />],
            ["Can be confirmed until", <Time key="until" at={request.expiresAt} />],
            [
              "Reference",
              <span key="reference" className="font-mono">
                {request.reference}
              </span>,
            ],
          ]}
        />
        {request.privileged && (
          <p className="mt-3">
            <Badge tone="warn">privileged</Badge>{" "}
            {request.confirmedBy
              ? `${request.confirmedBy} confirmed already; you are the second.`
              : "Two people at the help desk have to confirm this one."}
          </p>
        )}
      </Section>
      <Section title="Before you confirm">
        <div className="flex max-w-2xl flex-col gap-4">
          <Checklist name="Checklist" items={request.checklist} checked={checked} onChange={setChecked} />
          {request.spoken.length > 0 && (
            <fieldset className="flex flex-col gap-3">
              <legend className="mb-1">Ask the caller, and type what you hear. You can’t see what’s right.</legend>
              {request.spoken.map((texts, at) => (
                <Field
                  key={at}
                  label={inLanguage(texts)}
                  autoComplete="off"
                  maxLength={100}
                  value={heard[at]}
                  onChange={(event) =>
                    setHeard(heard.map((before, index) => (index === at ? event.target.value : before)))
                  }
                />
              ))}
            </fieldset>
          )}
          <Field
            label="Note for the record (optional)"
            maxLength={500}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
          {problem && <Notice tone="bad">{said(problem)}</Notice>}
          <div className="flex flex-wrap gap-3">
            <Button look="primary" disabled={!ready} busy={confirm.isPending} onClick={() => confirm.mutate()}>
              Confirm that it’s {request.name}
            </Button>
            <Button busy={deny.isPending} onClick={() => deny.mutate()}>
              It isn’t them: deny
            </Button>
            <Button look="quiet" onClick={onBack}>
              Back
            </Button>
          </div>
          {!ready && <p className="text-muted text-sm">Do everything above to confirm.</p>}
        </div>
      </Section>
    </>
  );
}

export const page: Page = { path: "help-desk", title: "Help desk", place: "help-desk", element: HelpDesk };
