import { useMutation, useQuery } from "@tanstack/react-query";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useState } from "react";
import { said } from "../shared/problem";
import { Badge, Button, Disclosure, Field, Notice, Select } from "../shared/ui";
import { api, data } from "./api";
import type { PhoneChannel, PhoneTried } from "./api";
import { Loading, Table } from "./parts";
import { ask } from "./queries";

interface Edited {
  name: string;
  url: string;
  secret: string;
  sends: string;
  price: string;
}

/** What a gateway can send, as it is chosen. */
const both = "text, voice";
const kinds = [both, "text", "voice"];

/** Gateways to the telephone network, in the order in which they are tried. */
export function Phone() {
  const phone = useQuery(ask.phone());
  return (
    <Loading query={phone}>
      {() => <Gateways key={JSON.stringify(phone.data!.gateways.map((one) => one.name))} channel={phone.data!} />}
    </Loading>
  );
}

function Gateways({ channel }: { channel: PhoneChannel }) {
  const known = channel.gateways.map((one) => ({
    name: one.name,
    url: one.url,
    secret: "",
    sends: one.sends.length === 2 ? both : one.sends[0]!,
    price: String(one.price),
  }));
  const [editing, setEditing] = useState<number>();
  const [waits, setWaits] = useState(false);
  const save = useMutation({
    meta: { touches: ["phone", "today"], saidHere: true },
    mutationFn: async (gateways: Edited[]) => {
      const answer = await api.PUT("/api/v1/channels/phone", {
        body: {
          gateways: gateways.map((one) => ({
            name: one.name,
            url: one.url,
            secret: one.secret || undefined,
            sends: one.sends.split(", "),
            price: Number(one.price),
          })),
        },
      });
      await data(Promise.resolve(answer));
      return answer.response.status === 202;
    },
    onSuccess: (waiting) => {
      setWaits(waiting);
      setEditing(undefined);
    },
  });
  const swap = (at: number) => {
    const moved = [...known];
    moved.splice(at - 1, 2, known[at]!, known[at - 1]!);
    save.mutate(moved);
  };
  return (
    <div className="flex flex-col gap-5">
      {waits && <Notice tone="info">This waits for another administrator’s approval.</Notice>}
      {save.error && <Notice tone="bad">{said(save.error)}</Notice>}
      {channel.gateways.length === 0 && editing === undefined && (
        <p className="text-muted">
          No gateway is set up, so no one is offered a code by text message or call. Add the gateway of your provider,
          or a small adapter in front of it.
        </p>
      )}
      {channel.gateways.map((one, at) =>
        editing === at ? (
          <Gateway
            key={one.name}
            gateway={known[at]!}
            busy={save.isPending}
            onCancel={() => setEditing(undefined)}
            onSave={(changed) => save.mutate(known.map((other, index) => (index === at ? changed : other)))}
            onRemove={() => save.mutate(known.filter((_, index) => index !== at))}
          />
        ) : (
          <div key={one.name} className="border-line flex flex-wrap items-center gap-3 rounded-md border p-3">
            <strong className="font-semibold">
              {at + 1}. {one.name}
            </strong>
            {one.works == null ? (
              <Badge tone="none">not tried yet</Badge>
            ) : one.works ? (
              <Badge tone="ok">works</Badge>
            ) : (
              <Badge tone="bad">not working</Badge>
            )}
            <span className="text-muted min-w-0 break-all">
              {one.url} · {one.sends.join(" and ")} · {one.price} a message
            </span>
            {one.why && <span className="text-bad text-sm">{one.why}</span>}
            <span className="ml-auto flex gap-1">
              <Button look="quiet" disabled={at === 0} aria-label={`Try ${one.name} earlier`} onClick={() => swap(at)}>
                <ArrowUp aria-hidden className="size-4" />
              </Button>
              <Button
                look="quiet"
                disabled={at === known.length - 1}
                aria-label={`Try ${one.name} later`}
                onClick={() => swap(at + 1)}
              >
                <ArrowDown aria-hidden className="size-4" />
              </Button>
              <Button look="quiet" aria-label={`Change ${one.name}`} onClick={() => setEditing(at)}>
                Change
              </Button>
            </span>
          </div>
        ),
      )}
      {editing === -1 ? (
        <Gateway
          gateway={{ name: "", url: "", secret: "", sends: both, price: "0" }}
          busy={save.isPending}
          onCancel={() => setEditing(undefined)}
          onSave={(added) => save.mutate([...known, added])}
        />
      ) : (
        <Button className="self-start" onClick={() => setEditing(-1)}>
          Add a gateway
        </Button>
      )}
      <Limits channel={channel} />
      {channel.gateways.length > 0 && <Test channel={channel} />}
      {channel.spent.length > 0 && (
        <Disclosure summary="Sent in the last 30 days">
          <Table
            name="Sent in the last 30 days"
            rows={channel.spent}
            keyOf={(one) => one.day + one.gateway + one.channel}
            empty="Nothing."
            columns={[
              { title: "Day", value: (one) => one.day },
              { title: "Gateway", value: (one) => one.gateway },
              { title: "Sent as", value: (one) => one.channel },
              { title: "Messages", value: (one) => one.messages },
              { title: "Cost", value: (one) => one.cost },
            ]}
          />
        </Disclosure>
      )}
    </div>
  );
}

function Gateway({
  gateway,
  busy,
  onSave,
  onCancel,
  onRemove,
}: {
  gateway: Edited;
  busy: boolean;
  onSave: (changed: Edited) => void;
  onCancel: () => void;
  onRemove?: () => void;
}) {
  const [form, setForm] = useState(gateway);
  return (
    <form
      className="bg-sunken grid gap-4 rounded-md p-4 sm:grid-cols-2"
      onSubmit={(event) => {
        event.preventDefault();
        onSave(form);
      }}
      onKeyDown={(event) => event.key === "Escape" && onCancel()}
    >
      <Field
        label="Name"
        autoFocus={!gateway.name}
        disabled={Boolean(gateway.name)}
        value={form.name}
        onChange={(event) => setForm({ ...form, name: event.target.value })}
      />
      <Field
        label="Address"
        placeholder="https://gateway.example.org/entente"
        value={form.url}
        onChange={(event) => setForm({ ...form, url: event.target.value })}
      />
      <Field
        label="Secret"
        hint={gateway.name ? "Leave empty to keep the saved one" : "At least 16 characters; both sign with it"}
        type="password"
        autoComplete="new-password"
        value={form.secret}
        onChange={(event) => setForm({ ...form, secret: event.target.value })}
      />
      <Select
        label="Sends"
        value={form.sends}
        options={kinds}
        onChange={(sends) => setForm({ ...form, sends: sends || both })}
      />
      <Field
        label="Price of one message"
        hint="To count what is spent"
        inputMode="decimal"
        value={form.price}
        onChange={(event) => setForm({ ...form, price: event.target.value.replace(/[^0-9.]/g, "") })}
      />
      <div className="flex flex-wrap items-end gap-2">
        <Button type="submit" look="primary" busy={busy}>
          Save
        </Button>
        <Button onClick={onCancel}>Cancel</Button>
        {onRemove && (
          <Button look="quiet" onClick={onRemove}>
            Remove {gateway.name}
          </Button>
        )}
      </div>
    </form>
  );
}

function Limits({ channel }: { channel: PhoneChannel }) {
  const [form, setForm] = useState({
    perNumber: String(channel.perNumber),
    perPrefix: String(channel.perPrefix),
    perCountry: String(channel.perCountry),
  });
  const save = useMutation({
    meta: { touches: ["phone"], saidHere: true },
    mutationFn: () =>
      data(
        api.PUT("/api/v1/channels/phone", {
          body: {
            gateways: channel.gateways.map(({ name, url, sends, price }) => ({ name, url, sends, price })),
            perNumber: Number(form.perNumber),
            perPrefix: Number(form.perPrefix),
            perCountry: Number(form.perCountry),
          },
        }),
      ),
  });
  const field = (name: keyof typeof form, label: string) => (
    <Field
      label={label}
      inputMode="numeric"
      value={form[name]}
      onChange={(event) => setForm({ ...form, [name]: event.target.value.replace(/\D/g, "") })}
    />
  );
  return (
    <form
      className="grid items-end gap-4 sm:grid-cols-4"
      aria-label="Limits"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      {field("perNumber", "At most in an hour to one number")}
      {field("perPrefix", "… to numbers alike but for four digits")}
      {field("perCountry", "… to one country")}
      <div>
        <Button type="submit" busy={save.isPending}>
          Save limits
        </Button>
      </div>
      {save.error && (
        <div className="sm:col-span-4">
          <Notice tone="bad">{said(save.error)}</Notice>
        </div>
      )}
      {save.isSuccess && <p className="text-muted text-sm sm:col-span-4">Saved.</p>}
    </form>
  );
}

function Test({ channel }: { channel: PhoneChannel }) {
  const [number, setNumber] = useState("");
  const [kind, setKind] = useState("text");
  const [gateway, setGateway] = useState(channel.gateways[0]!.name);
  const test = useMutation({
    meta: { touches: ["phone", "today"], saidHere: true },
    mutationFn: () =>
      data(
        api.POST("/api/v1/channels/phone/test", { body: { gateway, number, channel: kind as "text" | "voice" } }),
      ) as Promise<PhoneTried>,
  });
  return (
    <form
      className="flex flex-wrap items-end gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        test.mutate();
      }}
    >
      <Field
        label="Send a test message to"
        placeholder="+47 900 00 000"
        inputMode="tel"
        value={number}
        onChange={(event) => setNumber(event.target.value)}
      />
      <Select label="As" value={kind} options={["text", "voice"]} onChange={setKind} />
      <Select label="Through" value={gateway} options={channel.gateways.map((one) => one.name)} onChange={setGateway} />
      <Button type="submit" busy={test.isPending}>
        Send test
      </Button>
      <div className="w-full" role="status">
        {test.error && <Notice tone="bad">{said(test.error)}</Notice>}
        {test.data &&
          (test.data.taken ? (
            <Notice tone="ok">The gateway {test.data.gateway} took the message.</Notice>
          ) : (
            <Notice tone="bad">
              Not sent. {test.data.gateway}: {test.data.why}
            </Notice>
          ))}
      </div>
    </form>
  );
}
