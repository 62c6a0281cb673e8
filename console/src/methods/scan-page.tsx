import { lazy, Suspense, useState } from "react";
import type { ComponentType, ReactNode } from "react";
import { Heading } from "../portal/heading";
import { texts } from "../portal/texts";
import { Button, Field } from "../shared/ui";
import type { SettingUp } from "./method";

interface ScanWords {
  /** Heading, then what to open, scan and type. */
  title: string;
  open: string;
  scan: string;
  image: string;
  type: string;
  field: string;
  tooShort: string;
  submit: string;
}

// Only who sets something up needs it; without it what is typed instead is still there.
const QRCodeSVG = lazy<ComponentType<{ value: string; size: number; title: string }>>(() =>
  import("qrcode.react").then(
    (loaded) => ({ default: loaded.QRCodeSVG }),
    () => ({ default: () => null }),
  ),
);

/** Scan a square image, and type the six digits that the app shows then. `children` are for who cannot scan. */
export function ScanPage({
  error,
  busy,
  onBack,
  onConfirm,
  value,
  words,
  autoComplete,
  children,
}: Omit<SettingUp, "offered"> & { value: string; words: ScanWords; autoComplete: string; children: ReactNode }) {
  const [code, setCode] = useState("");
  const [short, setShort] = useState("");
  return (
    <form
      className="flex flex-col gap-5"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        const right = code.replace(/[\s-]/g, "").length === 6;
        setShort(right ? "" : words.tooShort);
        if (right) onConfirm({ code });
      }}
    >
      <Heading>{words.title}</Heading>
      <ol className="flex list-decimal flex-col gap-4 pl-5">
        <li>{words.open}</li>
        <li>
          {words.scan}
          <div className="mt-3 w-fit rounded-lg bg-white p-3">
            <Suspense>
              <QRCodeSVG value={value} size={188} title={words.image} />
            </Suspense>
          </div>
          {children}
        </li>
        <li>{words.type}</li>
      </ol>
      <Field
        large
        label={words.field}
        name="code"
        inputMode="numeric"
        autoComplete={autoComplete}
        maxLength={20}
        placeholder="000 000"
        className="tracking-widest"
        value={code}
        onChange={(event) => setCode(event.target.value)}
        error={short || error}
      />
      <Button type="submit" look="primary" large busy={busy}>
        {words.submit}
      </Button>
      <Button look="quiet" large onClick={onBack} className="self-start">
        {texts.back}
      </Button>
    </form>
  );
}
