import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { ReactNode } from "react";
import { useLocation, useNavigate } from "react-router";
import { Problem } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
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

export function SignIn() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const back = (useLocation().state as { back?: string } | null)?.back ?? "/";
  const [login, setLogin] = useState("");
  const [password, setPassword] = useState("");
  const [error, setError] = useState("");
  const [busy, setBusy] = useState(false);

  async function submit(event: React.FormEvent) {
    event.preventDefault();
    setBusy(true);
    setError("");
    try {
      // A first look brings the token that protects the sign-in itself against other sites.
      await data(api.GET("/api/v1/session")).catch(() => null);
      await data(api.POST("/api/v1/session", { body: { login, password } }));
      await queries.invalidateQueries();
      await navigate(back);
    } catch (problem) {
      setError(problem instanceof Problem ? problem.message : "Something went wrong. Try again.");
      setBusy(false);
    }
  }

  return (
    <Door title="Sign in" under="For administrators.">
      <form onSubmit={(event) => void submit(event)} className="flex flex-col gap-4">
        {error && <Notice tone="bad">{error}</Notice>}
        <Field
          label="Sign-in name"
          autoFocus
          autoComplete="username"
          required
          value={login}
          onChange={(event) => setLogin(event.target.value)}
        />
        <Field
          label="Password"
          type="password"
          autoComplete="current-password"
          required
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
        <Button type="submit" look="primary" busy={busy}>
          Sign in
        </Button>
      </form>
    </Door>
  );
}

/** Where the one-time link of the first start leads. */
export function First() {
  const navigate = useNavigate();
  const [login, setLogin] = useState("");
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [error, setError] = useState("");
  const [busy, setBusy] = useState(false);

  async function submit(event: React.FormEvent) {
    event.preventDefault();
    setBusy(true);
    setError("");
    try {
      const token = window.location.hash.slice(1);
      await data(api.POST("/api/v1/first-administrator", { body: { token, login, name, password } }));
      await navigate("/sign-in");
    } catch (problem) {
      setError(problem instanceof Problem ? problem.message : "Something went wrong. Try again.");
      setBusy(false);
    }
  }

  return (
    <Door title="The first administrator" under="This link works once. Make yourself an administrator, then sign in.">
      <form onSubmit={(event) => void submit(event)} className="flex flex-col gap-4">
        {error && <Notice tone="bad">{error}</Notice>}
        <Field label="Your name" autoFocus autoComplete="name" value={name} onChange={(e) => setName(e.target.value)} />
        <Field
          label="Sign-in name"
          hint="Lower-case letters, digits, dots and dashes"
          autoComplete="username"
          required
          value={login}
          onChange={(event) => setLogin(event.target.value)}
        />
        <Field
          label="Password"
          hint="At least 12 characters"
          type="password"
          autoComplete="new-password"
          required
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
        <Button type="submit" look="primary" busy={busy}>
          Make me an administrator
        </Button>
      </form>
    </Door>
  );
}
