import { Printer, Trash2 } from "lucide-react";
import { QRCodeSVG } from "qrcode.react";
import { useCallback, useEffect, useState } from "react";
import { useTask } from "../shared/task";
import { Button, Field, Notice } from "../shared/ui";
import { ways } from "../shared/ways";
import { api } from "./api";
import type { Attempt, Enrolment, OfferedApp } from "./api";
import { useOrganisation } from "./shell";
import { texts } from "./texts";

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
            setSaid(texts.details.codesReady);
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
            setSaid(texts.details.appReady);
          })
        }
      />
    );
  }
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <h1 className="text-2xl font-semibold">{texts.details.title}</h1>
        <p className="text-muted">{texts.details.says}</p>
      </div>
      {said && <Notice tone="ok">{said}</Notice>}
      {error && <Notice tone="bad">{error}</Notice>}
      {enrolments && (
        <ul className="border-line bg-surface divide-line flex flex-col divide-y rounded-lg border">
          {enrolments.length === 0 && <li className="text-muted p-4">{texts.details.none}</li>}
          {enrolments.map((one) => {
            const Icon = ways[one.method]?.icon;
            return (
              <li key={one.id ?? one.method} className="flex flex-wrap items-center gap-3 p-4">
                {Icon && <Icon aria-hidden className="text-accent-ink size-5 shrink-0" />}
                <span className="flex min-w-0 flex-1 flex-col">
                  <strong className="font-semibold">{one.id ? one.label : texts.methods[one.method]?.name}</strong>
                  <span className="text-muted text-sm">
                    {one.id
                      ? one.method === "recovery-code"
                        ? texts.details.left(one.left)
                        : texts.details.since(new Date(one.since))
                      : texts.details.fromOrganisation(one.label)}
                  </span>
                </span>
                {one.id && (
                  <Button look="quiet" aria-label={texts.details.removeOne(one.label)} onClick={() => setRemoving(one)}>
                    <Trash2 aria-hidden className="size-4" />
                    {texts.details.remove}
                  </Button>
                )}
                {removing?.id === one.id && one.id && (
                  <div className="flex w-full flex-wrap items-center gap-2">
                    <span className="flex-1">{texts.details.removeAsk}</span>
                    <Button onClick={() => setRemoving(null)}>{texts.details.keep}</Button>
                    <Button
                      look="danger"
                      busy={busy === "remove"}
                      onClick={() =>
                        void act("remove", async () => {
                          setEnrolments(await api.removeEnrolment(one.id));
                          setRemoving(null);
                          setSaid(texts.details.removed(one.label));
                        })
                      }
                    >
                      {texts.details.remove}
                    </Button>
                  </div>
                )}
              </li>
            );
          })}
        </ul>
      )}
      <Button large busy={busy === "app"} onClick={() => void act("app", async () => setApp(await api.newApp("")))}>
        {texts.details.addApp}
      </Button>
      <Button
        large
        busy={busy === "codes"}
        onClick={() => void act("codes", async () => setCodes((await api.newRecoveryCodes()).codes))}
      >
        {enrolments?.some((one) => one.method === "recovery-code") ? texts.details.newCodes : texts.details.codes}
      </Button>
      <Button
        look="primary"
        large
        busy={busy === "end"}
        onClick={() => void act("end", async () => onChange(await api.finish()))}
      >
        {texts.details.done}
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
        setShort(right ? "" : texts.methods["app-code"]!.tooShort);
        if (right) onCode(code);
      }}
    >
      <h1 className="text-2xl font-semibold">{texts.details.addApp}</h1>
      <ol className="flex list-decimal flex-col gap-4 pl-5">
        <li>{texts.app.open}</li>
        <li>
          {texts.app.scan}
          <div className="mt-3 w-fit rounded-lg bg-white p-3">
            <QRCodeSVG value={app.uri} size={188} title={texts.app.image(organisation)} />
          </div>
          <a href={app.uri} className="text-accent-ink mt-3 block w-fit rounded-sm underline">
            {texts.app.here}
          </a>
          <details className="mt-2">
            <summary className="text-accent-ink cursor-pointer rounded-sm">{texts.app.cannot}</summary>
            <p className="mt-2">
              {texts.app.key} <span className="font-mono break-all">{app.secret.replace(/(.{4})/g, "$1 ")}</span>
            </p>
          </details>
        </li>
        <li>{texts.app.type}</li>
      </ol>
      <Field
        large
        label={texts.methods["app-code"]!.label}
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
        {texts.app.submit}
      </Button>
      <Button look="quiet" large onClick={onBack} className="self-start">
        {texts.back}
      </Button>
    </form>
  );
}

function CodesPage({ codes, onDone }: { codes: string[]; onDone: () => void }) {
  const { organisation } = useOrganisation();
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <h1 className="text-2xl font-semibold">{texts.codes.title}</h1>
        <p className="text-muted">{texts.codes.says(organisation)}</p>
      </div>
      <ul className="border-line bg-surface grid grid-cols-2 gap-2 rounded-lg border p-4 font-mono">
        {codes.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ul>
      <Button large onClick={() => window.print()}>
        <Printer aria-hidden className="size-4" />
        {texts.codes.print}
      </Button>
      <Button look="primary" large onClick={onDone}>
        {texts.codes.saved}
      </Button>
    </div>
  );
}
