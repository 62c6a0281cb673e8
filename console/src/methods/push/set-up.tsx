import { QRCodeSVG } from "qrcode.react";
import { useState } from "react";
import { useOrganisation } from "../../portal/shell";
import { texts } from "../../portal/texts";
import { Button, Field } from "../../shared/ui";
import type { SettingUp } from "../method";
import { en as words } from "./en";

/** Scan; the app shows six digits, by which the page knows that it is this phone's key. */
export function SetUpDevice({ offered, error, busy, onBack, onConfirm }: SettingUp) {
  const { link = "" } = offered.parts;
  const { organisation } = useOrganisation();
  const [code, setCode] = useState("");
  const [short, setShort] = useState("");
  return (
    <form
      className="flex flex-col gap-5"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        const right = /^[0-9]{6}$/.test(code.replace(/\s/g, ""));
        setShort(right ? "" : words.tooShort);
        if (right) onConfirm({ code });
      }}
    >
      <h1 className="text-2xl font-semibold">{words.addTitle}</h1>
      <ol className="flex list-decimal flex-col gap-4 pl-5">
        <li>{words.open}</li>
        <li>
          {words.scan}
          <div className="mt-3 w-fit rounded-lg bg-white p-3">
            <QRCodeSVG value={link} size={188} title={words.image(organisation)} />
          </div>
          <details className="mt-2">
            <summary className="text-accent-ink cursor-pointer rounded-sm">{words.cannot}</summary>
            <p className="mt-2 font-mono break-all" data-link>
              {link}
            </p>
          </details>
        </li>
        <li>{words.type}</li>
      </ol>
      <Field
        large
        label={words.field}
        name="code"
        inputMode="numeric"
        autoComplete="off"
        maxLength={8}
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
