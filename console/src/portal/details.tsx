import { Printer, Trash2 } from "lucide-react";
import { QRCodeSVG } from "qrcode.react";
import { useCallback, useEffect, useState } from "react";
import { useTask } from "../shared/task";
import { Button, Field, Notice } from "../shared/ui";
import { ways } from "../shared/ways";
import { api } from "./api";
import type { Attempt, Enrolment, OfferedApp } from "./api";
import { useOrganisation } from "./shell";

/** How the person can be recognised, and setting up more. */
export function DetailsPage({
  onChange,
  onGone,
}: {
  onChange: (attempt: Attempt) => void;
  onGone: (problem: unknown) => boolean;
}) {
  const [enrolments, setEnrolments] = useState<Enrolment[] | null>(null);
  const [app, setApp] = useState<OfferedApp | null>(null);
  const [codes, setCodes] = useState<string[]>([]);
  const [removing, setRemoving] = useState<Enrolment | null>(null);
  const [said, setSaid] = useState("");
  const { busy, error, run } = useTask(onGone);

  const act = useCallback(
    (what: string, work: () => Promise<void>) => {
      setSaid("");
      return run(work, what);
    },
    [run],
  );

  useEffect(() => {
    void act("list", async () => setEnrolments(await api.enrolments()));
  }, [act]);

  if (codes.length > 0) {
    return (
      <CodesPage
        codes={codes}
        onDone={() =>
          void act("list", async () => {
            setCodes([]);
            setEnrolments(await api.enrolments());
            setSaid("Your recovery codes are ready. Any earlier ones no longer work.");
          })
        }
      />
    );
  }
  if (app) {
    return (
      <AppPage
        app={app}
        error={error}
        busy={busy === "confirm"}
        onBack={() => setApp(null)}
        onCode={(code) =>
          void act("confirm", async () => {
            setEnrolments(await api.confirmApp(app.id, code));
            setApp(null);
            setSaid("The app is set up. You can use it next time.");
          })
        }
      />
    );
  }
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <h1 className="text-2xl font-semibold">Your methods</h1>
        <p className="text-muted">With more than one, you can get back in even when one isn’t at hand.</p>
      </div>
      {said && <Notice tone="ok">{said}</Notice>}
      {error && <Notice tone="bad">{error}</Notice>}
      {enrolments && (
        <ul className="border-line bg-surface divide-line flex flex-col divide-y rounded-lg border">
          {enrolments.length === 0 && <li className="text-muted p-4">None yet.</li>}
          {enrolments.map((one) => {
            const Icon = ways[one.method]?.icon;
            return (
              <li key={one.id ?? one.method} className="flex flex-wrap items-center gap-3 p-4">
                {Icon && <Icon aria-hidden className="text-accent-ink size-5 shrink-0" />}
                <span className="flex min-w-0 flex-1 flex-col">
                  <strong className="font-semibold">{one.id ? one.label : ways[one.method]?.name}</strong>
                  <span className="text-muted text-sm">
                    {one.id
                      ? one.method === "recovery-code"
                        ? `${one.left} left`
                        : `since ${new Date(one.since).toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })}`
                      : `${one.label}, from your organisation`}
                  </span>
                </span>
                {one.id && (
                  <Button look="quiet" aria-label={`Remove ${one.label}`} onClick={() => setRemoving(one)}>
                    <Trash2 aria-hidden className="size-4" />
                    Remove
                  </Button>
                )}
                {removing?.id === one.id && one.id && (
                  <div className="flex w-full flex-wrap items-center gap-2">
                    <span className="flex-1">You won’t be able to use it any more. Remove it?</span>
                    <Button onClick={() => setRemoving(null)}>Keep</Button>
                    <Button
                      look="danger"
                      busy={busy === "remove"}
                      onClick={() =>
                        void act("remove", async () => {
                          setEnrolments(await api.removeEnrolment(one.id));
                          setRemoving(null);
                          setSaid(`${one.label} was removed.`);
                        })
                      }
                    >
                      Remove
                    </Button>
                  </div>
                )}
              </li>
            );
          })}
        </ul>
      )}
      <Button large busy={busy === "app"} onClick={() => void act("app", async () => setApp(await api.newApp("")))}>
        Add an authenticator app
      </Button>
      <Button
        large
        busy={busy === "codes"}
        onClick={() => void act("codes", async () => setCodes((await api.newRecoveryCodes()).codes))}
      >
        {enrolments?.some((one) => one.method === "recovery-code")
          ? "Create new recovery codes"
          : "Create recovery codes"}
      </Button>
      <Button
        look="primary"
        large
        busy={busy === "end"}
        onClick={() => void act("end", async () => onChange(await api.finish()))}
      >
        Done
      </Button>
    </div>
  );
}

function AppPage({
  app,
  error,
  busy,
  onBack,
  onCode,
}: {
  app: OfferedApp;
  error: string;
  busy: boolean;
  onBack: () => void;
  onCode: (code: string) => void;
}) {
  const { organisation } = useOrganisation();
  const [code, setCode] = useState("");
  const [short, setShort] = useState("");
  return (
    <form
      className="flex flex-col gap-5"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        const right = code.replace(/[\s-]/g, "").length === 6;
        setShort(right ? "" : "The app shows six digits.");
        if (right) onCode(code);
      }}
    >
      <h1 className="text-2xl font-semibold">Add an authenticator app</h1>
      <ol className="flex list-decimal flex-col gap-4 pl-5">
        <li>Open your authenticator app, or install one on your phone.</li>
        <li>
          Scan this code with the app.
          <div className="mt-3 w-fit rounded-lg bg-white p-3">
            <QRCodeSVG value={app.uri} size={188} title={`Image to scan for ${organisation}`} />
          </div>
          <a href={app.uri} className="text-accent-ink mt-3 block w-fit rounded-sm underline">
            Open the app on this device
          </a>
          <details className="mt-2">
            <summary className="text-accent-ink cursor-pointer rounded-sm">Can’t scan?</summary>
            <p className="mt-2">
              Type this key in the app:{" "}
              <span className="font-mono break-all">{app.secret.replace(/(.{4})/g, "$1 ")}</span>
            </p>
          </details>
        </li>
        <li>Type the six digits the app shows.</li>
      </ol>
      <Field
        large
        label="Code in the app"
        name="code"
        inputMode="numeric"
        autoComplete="one-time-code"
        maxLength={20}
        placeholder="000 000"
        className="tracking-widest"
        value={code}
        onChange={(event) => setCode(event.target.value)}
        error={short || error}
      />
      <Button type="submit" look="primary" large busy={busy}>
        Set up
      </Button>
      <Button look="quiet" large onClick={onBack} className="self-start">
        Back
      </Button>
    </form>
  );
}

function CodesPage({ codes, onDone }: { codes: string[]; onDone: () => void }) {
  const { organisation } = useOrganisation();
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <h1 className="text-2xl font-semibold">Your recovery codes</h1>
        <p className="text-muted">
          Keep them on paper, away from your phone. Each works once at {organisation}. We won’t show them again.
        </p>
      </div>
      <ul className="border-line bg-surface grid grid-cols-2 gap-2 rounded-lg border p-4 font-mono">
        {codes.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ul>
      <Button large onClick={() => window.print()}>
        <Printer aria-hidden className="size-4" />
        Print
      </Button>
      <Button look="primary" large onClick={onDone}>
        I’ve saved them
      </Button>
    </div>
  );
}
