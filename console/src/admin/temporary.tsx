import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { newAttemptKey, publicHalf, seal } from "../portal/seal";
import type { Sealing, Target } from "../portal/seal";
import { said } from "../shared/problem";
import { Button, Notice } from "../shared/ui";
import { api, data } from "./api";
import { State } from "./parts";
import { ask } from "./queries";
import { Modal, ModalFoot } from "../shared/modal";

// Without letters and digits that look alike when read out.
const LETTERS = "abcdefghjkmnpqrstuvwxyz";
const CAPITALS = "ABCDEFGHJKLMNPQRSTUVWXYZ";
const DIGITS = "23456789";

function pick(from: string): string {
  // Values that would favour the first signs are thrown away.
  const limit = 256 - (256 % from.length);
  for (;;) {
    const byte = crypto.getRandomValues(new Uint8Array(1))[0]!;
    if (byte < limit) return from[byte % from.length]!;
  }
}

/** Four groups of four, of all kinds of signs: about 80 bits, and easy to read out. */
export function temporaryPassword(): string {
  const group = () => pick(CAPITALS) + pick(LETTERS) + pick(LETTERS) + pick(DIGITS);
  return [group(), group(), group(), group()].join("-");
}

/** Gives a person a temporary password; shown once, here and nowhere else. */
export function TemporaryPassword({ person, name }: { person: string; name: string }) {
  const [open, setOpen] = useState(false);
  const switches = useQuery(ask.switches());
  const give = useMutation({
    meta: { saidHere: true },
    mutationFn: async () => {
      const pair = await newAttemptKey();
      const asked = await data(
        api.POST("/api/v1/people/{id}/temporary-password", {
          params: { path: { id: person } },
          body: { key: await publicHalf(pair) },
        }),
      );
      const password = temporaryPassword();
      const sealing = asked.sealing as unknown as Sealing & { targets: Target[] };
      const passwords = [];
      for (const target of sealing.targets) {
        passwords.push(await seal(sealing, target, password, pair));
      }
      await data(
        api.POST("/api/v1/attempts/{reference}/passwords", {
          params: { path: { reference: asked.reference } },
          body: { passwords },
        }),
      );
      return { password, reference: asked.reference };
    },
  });
  const attempt = useQuery({
    ...ask.attempt(give.data?.reference ?? ""),
    enabled: Boolean(give.data),
    refetchInterval: (query) => (query.state.data?.attempt.endedAt ? false : 700),
  });
  if (!switches.data?.temporaryPasswords) return null;
  const state = attempt.data?.attempt.state;
  return (
    <Modal
      open={open}
      onOpenChange={(next) => {
        setOpen(next);
        // Closed, it is forgotten: nothing shows it a second time.
        if (!next) give.reset();
      }}
      trigger={<Button>Give a temporary password</Button>}
      title={`A temporary password for ${name}`}
      description={
        !give.data
          ? "It replaces the password in all accounts that the person’s policy delivers to. They have to change it at the first sign-in. It is shown once. Make sure you know who you’re talking to."
          : state === "completed"
            ? "It’s set. Read it out, then close this."
            : "Setting it …"
      }
    >
      {!give.data ? (
        <>
          {give.error && <Notice tone="bad">{said(give.error)}</Notice>}
          <ModalFoot>
            <Button look="danger" busy={give.isPending} onClick={() => give.mutate()}>
              Set it now
            </Button>
          </ModalFoot>
        </>
      ) : (
        <>
          <p className="border-line bg-sunken rounded-md border p-3 text-center font-mono text-lg select-all">
            {give.data.password}
          </p>
          <ul className="flex flex-col gap-1">
            {(attempt.data?.deliveries ?? []).map((one) => (
              <li key={one.id} className="flex flex-wrap items-center gap-2">
                <span>
                  {one.directory} {one.login}
                </span>
                <State state={one.state} />
                {one.cause && <span className="text-muted text-sm">{one.cause}</span>}
              </li>
            ))}
          </ul>
          <ModalFoot close="Close and forget it" />
        </>
      )}
    </Modal>
  );
}
