import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { QRCodeSVG } from "qrcode.react";
import { useState } from "react";
import { said } from "../shared/problem";
import { useTask } from "../shared/task";
import { Badge, Button, Field, Notice } from "../shared/ui";
import { CodeField } from "./again";
import { api, data } from "./api";
import type { OwnSession } from "./api";
import { Loading, Table, Time } from "./parts";
import { ask } from "./queries";

/** One's own password. */
export function OwnPassword() {
  const [before, setBefore] = useState("");
  const [password, setPassword] = useState("");
  const change = useMutation({
    meta: { touches: [], saidHere: true },
    mutationFn: () => data(api.PUT("/api/v1/me/password", { body: { before, password } })),
    onSuccess: () => {
      setBefore("");
      setPassword("");
    },
  });
  return (
    <form
      className="flex max-w-sm flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate();
      }}
    >
      <Field
        label="Current password"
        type="password"
        autoComplete="current-password"
        required
        value={before}
        onChange={(event) => setBefore(event.target.value)}
      />
      <Field
        label="New password"
        hint="At least 12 characters. All your other sessions end."
        type="password"
        autoComplete="new-password"
        required
        value={password}
        onChange={(event) => setPassword(event.target.value)}
        error={change.error ? said(change.error) : undefined}
      />
      <Button type="submit" busy={change.isPending} className="self-start">
        Change password
      </Button>
      {change.isSuccess && <Notice tone="ok">Changed. You stay signed in here only.</Notice>}
    </form>
  );
}

const kinds: Record<string, string> = { console: "console", "command-line": "command line" };

/** Where one is signed in. */
export function OwnSessions() {
  const sessions = useQuery(ask.ownSessions());
  const end = useMutation({
    meta: { touches: ["me"] },
    mutationFn: (id: string) => data(api.DELETE("/api/v1/me/sessions/{id}", { params: { path: { id } } })),
  });
  return (
    <Loading query={sessions}>
      {() => (
        <Table<OwnSession>
          name="Sessions"
          rows={sessions.data!}
          keyOf={(one) => one.id}
          empty="None."
          columns={[
            { title: "By", value: (one) => kinds[one.kind] ?? one.kind },
            { title: "From", value: (one) => one.network },
            { title: "Since", value: (one) => <Time at={one.madeAt} /> },
            { title: "Last used", value: (one) => <Time at={one.lastUsedAt} /> },
            { title: "Ends at the latest", wide: true, value: (one) => <Time at={one.endsAt} /> },
            {
              title: "End it",
              value: (one) =>
                one.here ? (
                  <Badge tone="info">this one</Badge>
                ) : (
                  <Button busy={end.isPending && end.variables === one.id} onClick={() => end.mutate(one.id)}>
                    End
                  </Button>
                ),
            },
          ]}
        />
      )}
    </Loading>
  );
}

/** One's own second factor. */
export function OwnSecondFactor({ set }: { set: boolean }) {
  const queries = useQueryClient();
  const [setting, setSetting] = useState(false);
  const remove = useMutation({
    meta: { touches: ["session"] },
    mutationFn: () => data(api.DELETE("/api/v1/me/second-factor")),
  });
  if (setting) {
    return (
      <SetUpSecondFactor
        onDone={() => {
          setSetting(false);
          void queries.invalidateQueries({ queryKey: ["session"] });
        }}
      />
    );
  }
  return (
    <div className="flex flex-col items-start gap-3">
      <p>{set ? <Badge tone="ok">set up</Badge> : <Badge tone="warn">not set up</Badge>}</p>
      <p>
        Asked for at sign-in, and again before what is dangerous: an authenticator app, with recovery codes for the
        worst day.
      </p>
      <div className="flex gap-2">
        <Button onClick={() => setSetting(true)}>{set ? "Set up another" : "Set up"}</Button>
        {set && (
          <Button
            busy={remove.isPending}
            onClick={() => window.confirm("Then your password alone signs in. Remove it?") && remove.mutate()}
          >
            Remove …
          </Button>
        )}
      </div>
    </div>
  );
}

/** App first, then the recovery codes, which are shown once. */
export function SetUpSecondFactor({ onDone }: { onDone: () => void }) {
  const [code, setCode] = useState("");
  const [codes, setCodes] = useState<string[]>([]);
  const offer = useQuery(ask.offeredSecondFactor());
  const { busy, error, run } = useTask();
  if (codes.length > 0) {
    return (
      <div className="flex flex-col items-start gap-4">
        <p>Your recovery codes. Keep them on paper, away from your phone. Each works once. We won’t show them again.</p>
        <ul className="border-line bg-surface grid grid-cols-2 gap-x-6 gap-y-1 rounded-lg border p-4 font-mono">
          {codes.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
        <Button look="primary" onClick={onDone}>
          I have kept them
        </Button>
      </div>
    );
  }
  return (
    <Loading query={offer}>
      {() => (
        <form
          className="flex flex-col items-start gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            void run(async () =>
              setCodes(
                (await data(api.POST("/api/v1/me/second-factor/confirmation", { body: { code } }))).recoveryCodes,
              ),
            );
          }}
        >
          <p>Scan this image with your authenticator app, then type the six digits it shows.</p>
          <div className="rounded-lg bg-white p-3">
            <QRCodeSVG value={offer.data!.uri} size={176} title="Image to scan" />
          </div>
          <details>
            <summary className="cursor-pointer rounded-sm">Can’t scan?</summary>
            <p className="mt-2 font-mono break-all">{offer.data!.secret.replace(/(.{4})/g, "$1 ")}</p>
          </details>
          <CodeField value={code} onChange={setCode} />
          {error && <Notice tone="bad">{error}</Notice>}
          <Button type="submit" look="primary" busy={Boolean(busy)}>
            Set it up
          </Button>
        </form>
      )}
    </Loading>
  );
}
