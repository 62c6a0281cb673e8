import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { ReactNode } from "react";
import { useLocation, useNavigate } from "react-router";
import { useTask } from "../shared/task";
import { Problem } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
import { SetUpSecondFactor } from "./account";
import { CodeField } from "./again";
import { api, data } from "./api";

function Door({ title, under, children }: { title: string; under: string; children: ReactNode }) {
  return (
    <main className="mx-auto flex min-h-dvh w-full max-w-sm flex-col justify-center gap-5 p-4">
      <div>
        <p className="text-muted">Entente console</p>
        <h1 className="text-xl font-semibold">{title}</h1>
        <p className="text-muted">{under}</p>
      </div>
      {children}
    </main>
  );
}

function DoorForm({
  error,
  busy,
  button,
  onSubmit,
  children,
}: {
  error: string;
  busy: boolean;
  button: string;
  onSubmit: () => void;
  children: ReactNode;
}) {
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onSubmit();
      }}
      className="flex flex-col gap-4"
    >
      {error && <Notice tone="bad">{error}</Notice>}
      {children}
      <Button type="submit" look="primary" busy={busy}>
        {button}
      </Button>
    </form>
  );
}

interface Typed {
  hint?: string;
  autoFocus?: boolean;
  value: string;
  onChange: (value: string) => void;
}

function LoginField({ onChange, ...field }: Typed) {
  return (
    <Field
      label="Sign-in name"
      autoComplete="username"
      required
      onChange={(event) => onChange(event.target.value)}
      {...field}
    />
  );
}

function PasswordField({ onChange, ...field }: Typed & { autoComplete: "current-password" | "new-password" }) {
  return (
    <Field label="Password" type="password" required onChange={(event) => onChange(event.target.value)} {...field} />
  );
}

export function SignIn() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const back = (useLocation().state as { back?: string } | null)?.back ?? "/";
  const [login, setLogin] = useState("");
  const [password, setPassword] = useState("");
  const [code, setCode] = useState<string | null>(null);
  const { busy, error, setError, run } = useTask();

  async function signIn() {
    // A first look brings the token that protects the sign-in itself against other sites.
    await data(api.GET("/api/v1/session")).catch(() => null);
    try {
      await data(api.POST("/api/v1/session", { body: { login, password, code: code ?? undefined } }));
    } catch (problem) {
      if (problem instanceof Problem && problem.type === "second-factor" && code === null) {
        setCode("");
        setError("");
        return;
      }
      throw problem;
    }
    queries.clear();
    await navigate(back);
  }

  return (
    <Door title="Sign in" under="For administrators.">
      <DoorForm error={error} busy={Boolean(busy)} button="Sign in" onSubmit={() => void run(signIn)}>
        <LoginField autoFocus value={login} onChange={setLogin} />
        <PasswordField autoComplete="current-password" value={password} onChange={setPassword} />
        {code !== null && <CodeField value={code} onChange={setCode} />}
      </DoorForm>
    </Door>
  );
}

/** Where everybody gets first who has to have a second factor and has none. */
export function FirstSecondFactor() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const back = (useLocation().state as { back?: string } | null)?.back ?? "/";
  return (
    <Door title="Set up a second factor" under="Everybody who administers here signs in with one.">
      <SetUpSecondFactor
        onDone={() => {
          queries.clear();
          void navigate(back);
        }}
      />
    </Door>
  );
}

/** Where the one-time link of the first start leads. */
export function First() {
  const navigate = useNavigate();
  const [login, setLogin] = useState("");
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const { busy, error, run } = useTask();

  async function make() {
    const token = window.location.hash.slice(1);
    await data(api.POST("/api/v1/first-administrator", { body: { token, login, name, password } }));
    await navigate("/sign-in");
  }

  return (
    <Door title="The first administrator" under="This link works once. Make yourself an administrator, then sign in.">
      <DoorForm error={error} busy={Boolean(busy)} button="Create my account" onSubmit={() => void run(make)}>
        <Field label="Your name" autoFocus autoComplete="name" value={name} onChange={(e) => setName(e.target.value)} />
        <LoginField hint="Lower-case letters, digits, dots and dashes" value={login} onChange={setLogin} />
        <PasswordField
          hint="At least 12 characters"
          autoComplete="new-password"
          value={password}
          onChange={setPassword}
        />
      </DoorForm>
    </Door>
  );
}
