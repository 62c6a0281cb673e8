import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { said } from "../../shared/problem";
import { Badge, Button, Disclosure, Field, Notice, Select } from "../../shared/ui";
import { api, data } from "../api";
import { Bounces } from "../bounces";
import { choices } from "../choices";
import type { MailChannel, MailTried } from "../api";
import { Phone } from "../phone";
import { OwnPassword, OwnSecondFactor, OwnSessions } from "../account";
import { Administrators, Approvals } from "../administrators";
import { OwnNotices } from "../notices";
import { Loading, PageHead, Section, Time } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";

export const page: Page = { path: "settings", title: "Settings", place: "settings", element: Settings };

/** Channels, and switches for what is off unless somebody turns it on. */
export function Settings() {
  const session = useQuery(ask.session());
  const own = session.data?.login ?? "";
  const mail = useQuery(ask.mail());
  return (
    <>
      <PageHead title="Settings" under="How people are reached, who administers, and what is switched on." />
      <Section title="Mail">
        <Loading query={mail}>{() => <Mail channel={mail.data!} />}</Loading>
      </Section>
      <Section title="Mail that comes back">
        <Bounces />
      </Section>
      <Section title="Text messages and calls">
        <Phone />
      </Section>
      <Section title="Temporary passwords">
        <Switch
          name="temporaryPasswords"
          about="Administrators can give a person a temporary password. It is made and sealed in the administrator’s browser, shown once, and has to be changed at the first sign-in. If it isn’t used within a day, it’s replaced by one that no one knows. Privileged accounts never get one, and each steward’s own file has to allow it."
        />
      </Section>
      <Section title="Waiting for approval">
        <Approvals own={own} />
      </Section>
      <Section title="Administrators and staff">
        <Administrators own={own} />
      </Section>
      <Section title="A second factor for everyone">
        <Switch
          name="secondFactorRequired"
          about="Every administrator signs in with an authenticator app or a recovery code beside the password. Whoever has none sets it up first at the next sign-in."
        />
      </Section>
      <Section title="What you are told">
        <OwnNotices />
      </Section>
      <Section title="Your second factor">
        <OwnSecondFactor set={session.data?.secondFactor ?? false} />
      </Section>
      <Section title="Your password">
        <OwnPassword />
      </Section>
      <Section title="Where you are signed in">
        <OwnSessions />
      </Section>
    </>
  );
}

function Mail({ channel }: { channel: MailChannel }) {
  const [form, setForm] = useState({ ...channel, password: "" });
  const [address, setAddress] = useState("");
  // A test changes what is known of the channel, not what is typed here and not saved yet.
  const saved = JSON.stringify([
    channel.host,
    channel.port,
    channel.security,
    channel.login,
    channel.sender,
    channel.administrators,
    channel.newsPerMinute,
    channel.dkimSelector,
  ]);
  const shown = useRef(saved);
  useEffect(() => {
    if (shown.current === saved) return;
    shown.current = saved;
    setForm({ ...channel, password: "" });
  }, [channel, saved]);
  const save = useMutation({
    meta: { touches: ["mail"], saidHere: true },
    mutationFn: async () => {
      const answer = await api.PUT("/api/v1/channels/mail", {
        body: {
          host: form.host,
          port: Number(form.port),
          security: form.security,
          login: form.login || undefined,
          password: form.password || undefined,
          sender: form.sender,
          administrators: form.administrators.filter(Boolean),
          newsPerMinute: Number(form.newsPerMinute),
          dkimSelector: form.dkimSelector ?? "",
        },
      });
      await data(Promise.resolve(answer));
      return answer.response.status !== 202;
    },
  });
  const test = useMutation({
    meta: { touches: ["mail"], saidHere: true },
    mutationFn: () => data(api.POST("/api/v1/channels/mail/test", { body: { address } })) as Promise<MailTried>,
  });
  return (
    <div className="grid gap-x-8 gap-y-6 lg:grid-cols-2">
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <p className="flex flex-wrap items-center gap-2">
          {channel.works == null ? (
            <Badge tone="none">not tested yet</Badge>
          ) : channel.works ? (
            <Badge tone="ok">works</Badge>
          ) : (
            <Badge tone="bad">not working</Badge>
          )}
          {channel.since && (
            <span className="text-muted text-sm">
              since <Time at={channel.since} />
            </span>
          )}
          {channel.why && <span className="text-bad text-sm">{channel.why}</span>}
        </p>
        <Field label="Server" value={form.host} onChange={(event) => setForm({ ...form, host: event.target.value })} />
        <Field
          label="Port"
          inputMode="numeric"
          value={String(form.port)}
          onChange={(event) => setForm({ ...form, port: Number(event.target.value.replace(/\D/g, "")) })}
        />
        <Select
          label="Protection"
          value={form.security}
          onChange={(security) => setForm({ ...form, security })}
          options={choices.mailSecurity}
        />
        <Field
          label="Sign-in name (optional)"
          autoComplete="off"
          value={form.login ?? ""}
          onChange={(event) => setForm({ ...form, login: event.target.value })}
        />
        <Field
          label="Password"
          hint="Leave empty to keep the saved one"
          type="password"
          autoComplete="new-password"
          value={form.password}
          onChange={(event) => setForm({ ...form, password: event.target.value })}
        />
        <Field
          label="Sender"
          value={form.sender}
          onChange={(event) => setForm({ ...form, sender: event.target.value })}
          error={save.error ? said(save.error) : undefined}
        />
        <Field
          label="Administrators’ addresses (optional)"
          hint="Shared ones, told of what is usual; each administrator can choose more below. Separate them with commas"
          value={form.administrators.join(", ")}
          onChange={(event) => setForm({ ...form, administrators: event.target.value.split(/,\s*/) })}
        />
        <Field
          label="News a minute, at most"
          hint="Codes always go first, and aren’t counted"
          inputMode="numeric"
          value={String(form.newsPerMinute)}
          onChange={(event) => setForm({ ...form, newsPerMinute: Number(event.target.value.replace(/\D/g, "")) })}
        />
        <Field
          label="Sign mail as (optional)"
          hint="A DKIM selector, such as entente1. A key is made for it"
          value={form.dkimSelector ?? ""}
          onChange={(event) => setForm({ ...form, dkimSelector: event.target.value })}
        />
        {channel.dkimRecord && (
          <Disclosure summary="What the sender’s domain has to say" framed>
            <p className="font-mono text-sm break-all">{channel.dkimRecord}</p>
          </Disclosure>
        )}
        <Button type="submit" look="primary" busy={save.isPending} className="self-start">
          Save
        </Button>
        {save.data === true && <Notice tone="ok">Saved. Send yourself a test before people depend on it.</Notice>}
      </form>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          test.mutate();
        }}
      >
        <Field
          label="Send a test to"
          hint="Your own address. The test uses the saved settings"
          type="email"
          value={address}
          onChange={(event) => setAddress(event.target.value)}
          error={test.error ? said(test.error) : undefined}
        />
        <Button type="submit" busy={test.isPending} className="self-start">
          Send a test
        </Button>
        {test.data && (
          <>
            <Notice
              tone={test.data.sent ? "ok" : "bad"}
              title={test.data.sent ? "The server accepted it." : "Not sent."}
            >
              {test.data.why && <p>{test.data.why}</p>}
            </Notice>
            <Disclosure summary="The whole conversation" framed open={!test.data.sent}>
              <pre tabIndex={0} className="overflow-x-auto font-mono text-sm whitespace-pre-wrap">
                {test.data.conversation.join("\n")}
              </pre>
            </Disclosure>
          </>
        )}
      </form>
    </div>
  );
}

/** One of the switches for everything, with what it means. */
function Switch({ name, about }: { name: "temporaryPasswords" | "secondFactorRequired"; about: string }) {
  const switches = useQuery(ask.switches());
  const turn = useMutation({
    meta: { touches: ["switches"] },
    mutationFn: (on: boolean) => data(api.PUT("/api/v1/switches", { body: { ...switches.data!, [name]: on } })),
  });
  return (
    <Loading query={switches}>
      {() => {
        const on = switches.data![name];
        return (
          <div className="flex max-w-2xl flex-col items-start gap-3">
            <p>{about}</p>
            <p>
              <Badge tone={!on ? "none" : name === "temporaryPasswords" ? "warn" : "ok"}>
                {on ? "switched on" : "switched off"}
              </Badge>
            </p>
            <Button busy={turn.isPending} onClick={() => turn.mutate(!on)}>
              {on ? "Switch off" : "Switch on"}
            </Button>
          </div>
        );
      }}
    </Loading>
  );
}
