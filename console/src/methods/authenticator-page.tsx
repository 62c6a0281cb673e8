import { startAuthentication, startRegistration } from "@simplewebauthn/browser";
import { useState } from "react";
import { Heading } from "../portal/heading";
import { api, challengeFor } from "../portal/api";
import { credentialOf, remember } from "../portal/remembered";
import { useOrganisation } from "../portal/shell";
import { texts } from "../portal/texts";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import type { Asking, SettingUp } from "./method";
import { Trouble } from "./trouble";

interface AuthenticatorWords {
  title: string;
  what: string;
  use: string;
  waiting: string;
  cancelled: string;
  trouble: string;
  first: string;
  only: string;
  addTitle: string;
  addSays: (organisation: string) => string;
  create: string;
  notCreated: string;
}

/** Credential ids, separated by spaces. */
function ids(text = "") {
  return text
    .split(" ")
    .filter(Boolean)
    .map((id) => ({ type: "public-key" as const, id }));
}

/** The browser asks for what signs: any passkey of this service, or one of those that are named. */
export function AuthenticatorPage({
  attempt,
  onChange,
  onGone,
  onRestart,
  onOtherWay,
  words,
}: Asking & { words: AuthenticatorWords }) {
  const [cancelled, setCancelled] = useState(false);
  const { busy, error, run } = useTask(onGone);
  const challenge = attempt.challenge;

  const use = () =>
    run(async () => {
      setCancelled(false);
      const { challenge: asked, at } = await challengeFor(challenge.parts.nonce ?? "", attempt.action);
      const signed = await startAuthentication({
        optionsJSON: {
          challenge: asked,
          rpId: challenge.parts.relyingParty,
          allowCredentials: ids(challenge.parts.allow),
          userVerification: challenge.parts.allow === undefined ? "required" : "discouraged",
        },
      }).catch(() => null);
      if (!signed) {
        setCancelled(true);
        return;
      }
      onChange(await api.answer(challenge.id, { parts: { credential: JSON.stringify(signed), at } }));
    });

  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <Heading>{words.title}</Heading>
        <p className="text-muted">{words.what}</p>
      </div>
      {error && <Notice tone="bad">{error}</Notice>}
      {cancelled && <Notice tone="warn">{words.cancelled}</Notice>}
      <Button look="primary" large busy={Boolean(busy)} onClick={() => void use()}>
        {busy ? words.waiting : words.use}
      </Button>
      <Trouble title={words.trouble} attempt={attempt} onRestart={onRestart} onOtherWay={onOtherWay}>
        <li>{words.first}</li>
        <li>{words.only}</li>
      </Trouble>
    </div>
  );
}

/** The browser creates what signs, on this device, a phone or a security key. */
export function RegisterPage({
  offered,
  error,
  busy,
  onBack,
  onConfirm,
  words,
}: SettingUp & { words: AuthenticatorWords }) {
  const { organisation } = useOrganisation();
  const [failed, setFailed] = useState(false);
  const { parts } = offered;

  async function create() {
    setFailed(false);
    const made = await startRegistration({
      optionsJSON: {
        challenge: parts.challenge ?? "",
        rp: { id: parts.relyingParty, name: parts.organisation ?? "" },
        user: { id: parts.user ?? "", name: parts.login ?? "", displayName: parts.login ?? "" },
        pubKeyCredParams: (parts.algorithms ?? "").split(" ").map((alg) => ({ type: "public-key", alg: Number(alg) })),
        excludeCredentials: ids(parts.exclude),
        // What comes first has to be found without a name, which is asked of nobody before they have proved something.
        authenticatorSelection: {
          residentKey: parts.residentKey as ResidentKeyRequirement,
          userVerification: parts.userVerification as UserVerificationRequirement,
          authenticatorAttachment: (parts.attachment || undefined) as AuthenticatorAttachment | undefined,
        },
        attestation: parts.attestation === "direct" ? "direct" : "none",
      },
    }).catch(() => null);
    if (made) {
      // Stewards recognise what is unlocked alone.
      const credential =
        parts.userVerification === "required" ? credentialOf(made.id, made.response.authenticatorData) : undefined;
      if (credential) remember(credential);
      onConfirm({ parts: { credential: JSON.stringify(made) } });
    } else {
      setFailed(true);
    }
  }

  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <Heading>{words.addTitle}</Heading>
        <p className="text-muted">{words.addSays(organisation)}</p>
      </div>
      {error && <Notice tone="bad">{error}</Notice>}
      {failed && !error && <Notice tone="warn">{words.notCreated}</Notice>}
      <Button look="primary" large busy={busy} onClick={() => void create()}>
        {words.create}
      </Button>
      <Button look="quiet" large onClick={onBack} className="self-start">
        {texts.back}
      </Button>
    </div>
  );
}
