import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { said } from "../shared/problem";
import { Badge, Button, Field, Select } from "../shared/ui";
import { api, data } from "./api";
import type { BounceMailbox } from "./api";
import { choices } from "./choices";
import { Loading, Time } from "./parts";
import { ask } from "./queries";

/** The mailbox from which is read what comes back. */
export function Bounces() {
  const box = useQuery(ask.bounces());
  return <Loading query={box}>{() => <Box box={box.data ?? null} key={box.data?.host ?? ""} />}</Loading>;
}

function Box({ box }: { box: BounceMailbox | null }) {
  const [form, setForm] = useState({
    host: box?.host ?? "",
    port: String(box?.port ?? 993),
    security: box?.security ?? ("tls" as const),
    login: box?.login ?? "",
    password: "",
  });
  const save = useMutation({
    meta: { touches: ["bounces"], saidHere: true },
    mutationFn: () => data(api.PUT("/api/v1/channels/mail/bounces", { body: { ...form, port: Number(form.port) } })),
    onSuccess: () => setForm({ ...form, password: "" }),
  });
  const off = useMutation({
    meta: { touches: ["bounces"] },
    mutationFn: () => data(api.DELETE("/api/v1/channels/mail/bounces")),
  });
  return (
    <form
      className="flex max-w-lg flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <p className="text-muted">
        A mail server that takes a message and can’t deliver it in the end sends a report to the sender’s address. If
        it’s read from there by IMAP, the message is shown as bounced.
      </p>
      <p className="flex flex-wrap items-center gap-2">
        {!box ? (
          <Badge tone="none">not read</Badge>
        ) : box.why ? (
          <Badge tone="bad">can’t be read</Badge>
        ) : box.lookedAt ? (
          <Badge tone="ok">works</Badge>
        ) : (
          <Badge tone="none">not read yet</Badge>
        )}
        {box?.lookedAt && (
          <span className="text-muted text-sm">
            read <Time at={box.lookedAt} />
          </span>
        )}
        {box?.why && <span className="text-bad text-sm">{box.why}</span>}
      </p>
      <Field
        label="IMAP server"
        value={form.host}
        onChange={(event) => setForm({ ...form, host: event.target.value })}
      />
      <Field
        label="Port"
        inputMode="numeric"
        value={form.port}
        onChange={(event) => setForm({ ...form, port: event.target.value.replace(/\D/g, "") })}
      />
      <Select
        label="Protection"
        value={form.security}
        onChange={(security) => setForm({ ...form, security })}
        options={choices.mailSecurity}
      />
      <Field
        label="Sign-in name"
        autoComplete="off"
        value={form.login}
        onChange={(event) => setForm({ ...form, login: event.target.value })}
      />
      <Field
        label="Password"
        type="password"
        autoComplete="new-password"
        value={form.password}
        onChange={(event) => setForm({ ...form, password: event.target.value })}
        error={save.error ? said(save.error) : undefined}
      />
      <div className="flex flex-wrap gap-2">
        <Button type="submit" look="primary" busy={save.isPending}>
          Save
        </Button>
        {box && (
          <Button busy={off.isPending} onClick={() => off.mutate()}>
            Stop reading it
          </Button>
        )}
      </div>
    </form>
  );
}
