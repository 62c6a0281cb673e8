import { useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { CircleCheck, CircleDashed } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { thumbprint } from "../../portal/seal";
import { Button, Field, Notice, Select } from "../../shared/ui";
import { choices } from "../choices";
import { PageHead, Section } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";
import { useTyped } from "../typed";

export const page: Page = {
  path: "directories/connect",
  title: "Connect a directory",
  place: "directories",
  element: Connect,
};

const hints: Record<string, { server: string; base: string; account: string; correlation: string }> = {
  "active-directory": {
    server: "ldaps://dc1.example.org:636",
    base: "OU=People,DC=example,DC=org",
    account: "CN=svc-entente,OU=Service Accounts,DC=example,DC=org",
    correlation: "employeeID",
  },
  ldap: {
    server: "ldaps://ldap1.example.org:636",
    base: "ou=people,dc=example,dc=org",
    account: "cn=svc-entente,ou=services,dc=example,dc=org",
    correlation: "employeeNumber",
  },
  scim: { server: "https://people.example.org/scim/v2", base: "", account: "", correlation: "externalId" },
  local: { server: "", base: "", account: "", correlation: "correlation" },
};

/**
 * A guided path. The operator key has to be made where it stays, so the first step is a command to copy; from then on the page
 * follows by itself what has happened and says what comes next.
 */
export function Connect() {
  const [form, type] = useTyped("connect", {
    kind: "active-directory",
    name: "",
    title: "",
    servers: "",
    base: "",
    account: "",
    correlation: "",
    protect: "",
  });
  const { kind, name, title, servers, base, account, correlation, protect } = form;
  const hint = hints[kind]!;
  const ldap = kind === "active-directory" || kind === "ldap";
  const nameWrong = name !== "" && !/^[a-z0-9][a-z0-9-]{0,62}$/.test(name);
  const directory = useQuery({ ...ask.awaitedDirectory(name), enabled: name !== "" && !nameWrong });
  const known = directory.data;
  const joined = known?.stewards.length ? known.stewards[0] : undefined;
  const key = useQuery({
    queryKey: ["thumbprint", joined?.id],
    queryFn: () => thumbprint(joined!.identityKey),
    enabled: Boolean(joined),
  });
  const steps: { title: string; done: boolean; commands?: string[]; says?: string }[] = [
    {
      title: "Register the directory and create its operator key",
      done: Boolean(known),
      commands: [command(kind, name, title, servers, base, account, correlation, protect)],
      says: "On your own machine. The operator key stays there, and the steward’s file is written there.",
    },
    {
      title: "Admit a steward",
      done: Boolean(joined),
      commands: [`entente steward admit --directory ${name || "NAME"} ${name || "NAME"}-1`],
      says: "Prints a join code that works once, for an hour.",
    },
    {
      title: "Join it with the code",
      done: Boolean(joined),
      commands: [`entente steward join --file ${name || "NAME"}-steward.yaml CODE`],
      says: "On a machine that can reach both the directory and this service. Nothing needs to reach that machine.",
    },
    {
      title: "Compare its key and sign it into the roster",
      done: Boolean(joined && known!.rosterVersion > 0),
      commands: [`entente steward sign-roster --directory ${name || "NAME"}`],
      says: joined
        ? `${joined.name} shows the key ${key.data ?? "…"}. It printed its own when it joined; both have to be the same.`
        : "Until then it can’t open anything.",
    },
    {
      title: "Run it",
      done: Boolean(known?.stewards.some((one) => one.connected)),
      commands: [`entente steward run --file ${name || "NAME"}-steward.yaml`],
      says: "On the machine where it joined. Set it up as a system service so that it starts automatically; see docs/operating.md.",
    },
    {
      title: "Check that everything a directory needs is in place",
      done: Boolean(known?.lastPreflight?.endedAt && known.lastPreflight.state === "done"),
      says: "This happens automatically once the steward runs.",
    },
    {
      title: "Read people, groups and OUs",
      done: Boolean(known?.syncedAt),
      says:
        known?.lastSync && !known.lastSync.endedAt
          ? `${known.lastSync.done} entries so far …`
          : "This happens automatically too.",
    },
  ];
  const next = steps.findIndex((step) => !step.done);
  // Whether a code was handed over is not known here until a steward joins with it: both steps are open together.
  const open = (index: number) => index === next || (next === 1 && index === 2);
  return (
    <>
      <PageHead title="Connect a directory" under="Fill in what you know; the steps follow by themselves." />
      <div className="grid grid-cols-1 gap-x-8 gap-y-6 lg:grid-cols-2">
        <Section title="What it is">
          <div className="flex flex-col gap-4">
            <Select
              label="Kind"
              value={kind}
              onChange={(kind) => type({ ...form, kind })}
              options={choices.directoryKind}
            />
            <Field
              label="Name"
              hint="Lower-case letters, digits and dashes; policies use it"
              value={name}
              onChange={(event) => type({ ...form, name: event.target.value.trim() })}
              error={nameWrong ? "Use lower-case letters, digits and dashes." : undefined}
            />
            <Field
              label="Title"
              hint="As people read it on their result page"
              value={title}
              onChange={(event) => type({ ...form, title: event.target.value })}
            />
            {kind !== "local" && (
              <Field
                label="Servers, in order of preference"
                hint={`Separate them by spaces, such as ${hint.server}${ldap ? "; ldap:// means StartTLS" : ""}`}
                value={servers}
                onChange={(event) => type({ ...form, servers: event.target.value })}
              />
            )}
            {ldap && (
              <>
                <Field
                  label="Base"
                  hint={`Such as ${hint.base}`}
                  value={base}
                  onChange={(event) => type({ ...form, base: event.target.value })}
                />
                <Field
                  label="Service account"
                  hint={`Such as ${hint.account}. Its password stays on the steward's machine.`}
                  value={account}
                  onChange={(event) => type({ ...form, account: event.target.value })}
                />
                <Field
                  label="Protected group (optional)"
                  hint="Its members, nested, are never written"
                  value={protect}
                  onChange={(event) => type({ ...form, protect: event.target.value })}
                />
              </>
            )}
            <Field
              label="Correlation attribute"
              hint={`Such as ${hint.correlation}: the same value in two directories means the same person`}
              value={correlation}
              onChange={(event) => type({ ...form, correlation: event.target.value })}
            />
          </div>
        </Section>
        <Section title="Steps">
          <ol className="flex flex-col gap-4">
            {steps.map((step, index) => (
              <li key={step.title} data-done={step.done} className="flex gap-3">
                {step.done ? (
                  <CircleCheck aria-label="done:" className="text-ok mt-0.5 size-5 shrink-0" />
                ) : (
                  <CircleDashed aria-label="to do:" className="text-muted mt-0.5 size-5 shrink-0" />
                )}
                <div className="flex min-w-0 flex-1 flex-col gap-1">
                  <span className={clsx("font-medium", !open(index) && !step.done && "text-muted")}>{step.title}</span>
                  {!step.done && step.says && <span className="text-muted text-sm break-words">{step.says}</span>}
                  {open(index) && step.commands?.map((text) => <Command key={text} text={text} />)}
                </div>
              </li>
            ))}
          </ol>
          {next === -1 && (
            <div className="mt-4">
              <Notice tone="ok" title={`${known!.title} is connected.`}>
                <p>
                  Look at{" "}
                  <Link to={`/directories/${name}`} className="rounded-sm underline">
                    what preflight found
                  </Link>
                  , then let a policy deliver to it.
                </p>
              </Notice>
            </div>
          )}
        </Section>
      </div>
    </>
  );
}

function quoted(text: string): string {
  return /^[A-Za-z0-9:/._=,@-]+$/.test(text) ? text : `"${text.replaceAll('"', '\\"')}"`;
}

function command(
  kind: string,
  name: string,
  title: string,
  servers: string,
  base: string,
  account: string,
  correlation: string,
  protect: string,
): string {
  const hint = hints[kind]!;
  const ldap = kind === "active-directory" || kind === "ldap";
  const lines = [`entente directory add ${name || "NAME"} --kind ${kind}`];
  if (title) lines.push(`--title ${quoted(title)}`);
  if (kind !== "local") {
    for (const server of (servers.trim() || hint.server).split(/\s+/)) lines.push(`--at ${quoted(server)}`);
  }
  if (ldap) {
    lines.push(`--ca ca.pem --base ${quoted(base || hint.base)}`);
    lines.push(`--account ${quoted(account || hint.account)} --password-file account.password`);
    lines.push(`--writes-below ${quoted(base || hint.base)}`);
    if (protect) lines.push(`--protect-group ${quoted(protect)}`);
  }
  if (kind === "scim") lines.push("--token-file token");
  if (kind === "local") lines.push("--command /usr/local/libexec/set-password");
  lines.push(`--correlation ${quoted(correlation || hint.correlation)}`);
  lines.push(`--steward-file ${name || "NAME"}-steward.yaml`);
  return lines.join(" \\\n    ");
}

/** A command to copy. */
function Command({ text }: { text: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <div className="flex flex-col items-start gap-2">
      <pre
        tabIndex={0}
        className="border-line bg-sunken w-full overflow-x-auto rounded-md border p-3 font-mono text-sm"
      >
        {text}
      </pre>
      <Button
        onClick={() => {
          void navigator.clipboard.writeText(text).then(() => setCopied(true));
          setTimeout(() => setCopied(false), 2000);
        }}
      >
        {copied ? "Copied" : "Copy"}
      </Button>
    </div>
  );
}
