import { useState } from "react";
import { parse, parseDocument } from "yaml";
import { said } from "../shared/problem";
import { Button, Field, Notice, Select } from "../shared/ui";
import { useDraftChange } from "./draft-change";
import { Messages } from "./messages";
import { PageHead, Section } from "./parts";
import { FileEnd, Languages, Lines } from "./texts";

type Value = string | string[] | boolean | Record<string, string>;

interface Setting {
  /** Where it stands in the file, parts separated by dots. */
  path: string;
  label: string;
  kind: "text" | "number" | "lines" | "yes" | "languages" | "choice";
  hint?: string;
  /** Of a choice, and what holds while nothing is chosen. */
  choices?: string[];
  usually?: string;
  least?: number;
  most?: number;
}

interface Kind {
  folder: string;
  /** The key that holds the name in a file. */
  key: string;
  title: string;
  one: string;
  about: string;
  settings: Setting[];
}

const kinds: Kind[] = [
  {
    folder: "networks",
    key: "network",
    title: "Networks",
    one: "network",
    about: "Lists of addresses that a policy's conditions can name.",
    settings: [
      { path: "title", label: "Title", kind: "text", hint: "As sentences say it: the ships" },
      {
        path: "ranges",
        label: "Ranges",
        kind: "lines",
        hint: "One to a line, such as 10.20.0.0/16 or 2001:db8:5::/48",
      },
    ],
  },
  {
    folder: "passwords",
    key: "password",
    title: "Rule sets",
    one: "rule set",
    about: "What a new password must be, beside the directory's own rules.",
    settings: [
      { path: "min-length", label: "Characters at least", kind: "number", least: 1, most: 128 },
      { path: "max-length", label: "Characters at most", kind: "number", least: 1, most: 128 },
      {
        path: "kinds",
        label: "Kinds of characters",
        kind: "number",
        least: 1,
        most: 4,
        hint: "Of capital letters, small letters, digits and others",
      },
      { path: "no-personal-details", label: "Without the person's own names", kind: "yes" },
      { path: "blocked-words", label: "Words that may not be in it", kind: "lines", hint: "One to a line" },
    ],
  },
  {
    folder: "terms",
    key: "terms",
    title: "Terms",
    one: "terms",
    about: "What people accept before they go on, in their language. A changed text is asked for again.",
    settings: [
      { path: "title", label: "Title", kind: "text" },
      { path: "texts", label: "Text", kind: "languages" },
    ],
  },
];

const counts = (path: string, label: string): Setting => ({
  path,
  label,
  kind: "choice",
  choices: ["", "possession", "knowledge", "inherence"],
  usually: "possession, as usual",
});

const methods: Setting[] = [
  { path: "email-code.life", label: "An e-mail code lives", kind: "text", hint: "From 1m to 1h" },
  { path: "email-code.tries", label: "Tries of an e-mail code", kind: "number", least: 1, most: 10 },
  { path: "email-code.alone", label: "An e-mail code may suffice alone", kind: "yes" },
  counts("email-code.factor", "An e-mail code counts as"),
  { path: "app-code.tries", label: "Tries of an app code", kind: "number", least: 1, most: 10 },
  { path: "app-code.alone", label: "An app code may suffice alone", kind: "yes" },
  counts("app-code.factor", "An app code counts as"),
  { path: "recovery-code.tries", label: "Tries of a recovery code", kind: "number", least: 1, most: 10 },
  { path: "recovery-code.alone", label: "A recovery code may suffice alone", kind: "yes" },
  counts("recovery-code.factor", "A recovery code counts as"),
];

const name = /^[a-z0-9][a-z0-9-]{0,62}$/;

/** The lists that policies name: networks, rule sets, terms; and how methods behave. Changed in the draft. */
export function Rules() {
  const { draft, files, change } = useDraftChange();
  const [open, setOpen] = useState("");
  const problems = draft?.problems ?? [];

  const put = (path: string, text: string | null) =>
    change.mutate((old) => {
      const { [path]: _, ...rest } = old;
      return text === null ? rest : { ...rest, [path]: text };
    });

  const editor = (path: string, settings: Setting[]) => (
    <Editor
      path={path}
      text={files[path] ?? ""}
      settings={settings}
      problems={problems.filter((one) => one.file === path)}
      onLeave={() => setOpen("")}
      onPut={(text) => put(path, text)}
    />
  );

  return (
    <>
      <PageHead
        title="Rules"
        under="What policies refer to by name, how methods behave, and what is sent. Changes go to the draft."
      />
      {change.error && <Notice tone="bad">{said(change.error, "It was not changed. Try again.")}</Notice>}
      {kinds.map((kind) => {
        const paths = Object.keys(files)
          .filter((path) => path.startsWith(`${kind.folder}/`))
          .sort();
        const made = `${kind.folder}/`;
        return (
          <Section key={kind.folder} title={kind.title}>
            <p className="text-muted mb-2">{kind.about}</p>
            <ul className="border-line bg-surface divide-line divide-y rounded-lg border">
              {paths.map((path) => {
                const own = path.slice(made.length, -5);
                return (
                  <li key={path} className="p-3">
                    <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
                      <strong className="font-medium">{own}</strong>
                      <span className="text-muted min-w-0 break-words">{summary(files[path]!, kind.settings)}</span>
                      <span className="ml-auto flex gap-1">
                        <Button
                          look="quiet"
                          aria-expanded={open === path}
                          aria-label={`Change ${own}`}
                          onClick={() => setOpen(open === path ? "" : path)}
                        >
                          Change
                        </Button>
                        <Button look="quiet" aria-label={`Remove ${own}`} onClick={() => put(path, null)}>
                          Remove
                        </Button>
                      </span>
                    </div>
                    {problems
                      .filter((one) => one.file === path && open !== path)
                      .map((one) => (
                        <p key={one.pointer + one.message} role="alert" className="text-bad text-sm">
                          {one.message}
                        </p>
                      ))}
                    {open === path && editor(path, kind.settings)}
                  </li>
                );
              })}
              <li className="p-3">
                {open === made ? (
                  <NewOne
                    kind={kind}
                    taken={paths}
                    onLeave={() => setOpen("")}
                    onPut={(path, text) => {
                      put(path, text);
                      setOpen(path);
                    }}
                  />
                ) : (
                  <Button look="quiet" onClick={() => setOpen(made)}>
                    New {kind.one}
                  </Button>
                )}
              </li>
            </ul>
          </Section>
        );
      })}
      <Section title="Methods">
        <div className="border-line bg-surface rounded-lg border p-3">
          {open === "methods.yaml" ? (
            editor("methods.yaml", methods)
          ) : (
            <div className="flex flex-wrap items-baseline gap-3">
              <span className="min-w-0">
                {summary(files["methods.yaml"] ?? "", methods) || "Nothing is said, so methods are as they come."}
              </span>
              <Button
                look="quiet"
                className="ml-auto"
                aria-label="Change methods"
                onClick={() => setOpen("methods.yaml")}
              >
                Change
              </Button>
            </div>
          )}
        </div>
      </Section>
      <Messages draft={draft?.id} files={files} problems={problems} onPut={put} />
    </>
  );
}

function read(text: string, setting: Setting): unknown {
  try {
    return parseDocument(text).getIn(setting.path.split("."), false);
  } catch {
    return undefined;
  }
}

function plain(text: string, path: string): unknown {
  let at: unknown;
  try {
    at = parse(text);
  } catch {
    return undefined;
  }
  for (const part of path.split(".")) at = (at as Record<string, unknown> | null | undefined)?.[part];
  return at;
}

/** What a file says, in a few words. */
function summary(text: string, settings: Setting[]): string {
  return settings
    .map((setting) => {
      const value = plain(text, setting.path);
      if (value === undefined || value === null) return "";
      if (setting.path === "title") return String(value);
      const said = Array.isArray(value)
        ? value.join(", ")
        : typeof value === "object"
          ? Object.keys(value).join(", ")
          : value === true
            ? "yes"
            : value === false
              ? "no"
              : String(value);
      return `${setting.label.toLowerCase()}: ${said}`;
    })
    .filter(Boolean)
    .join(" · ");
}

/** A file with one setting said otherwise; comments and the rest stay as they are. */
function written(text: string, settings: Setting[], values: Record<string, Value>): string {
  const document = parseDocument(text);
  for (const setting of settings) {
    const value = values[setting.path];
    const path = setting.path.split(".");
    const said =
      setting.kind === "lines"
        ? (value as string)
            .split("\n")
            .map((line) => line.trim())
            .filter(Boolean)
        : setting.kind === "number"
          ? value === ""
            ? ""
            : Number(value)
          : value;
    const empty = said === "" || said === undefined || (Array.isArray(said) && said.length === 0);
    if (empty) {
      if (read(text, setting) !== undefined) document.deleteIn(path);
    } else if (JSON.stringify(said) !== JSON.stringify(plain(text, setting.path))) {
      document.setIn(path, document.createNode(said));
    }
  }
  return document.toString({ lineWidth: 0 });
}

function initial(text: string, setting: Setting): Value {
  const value = plain(text, setting.path);
  if (setting.kind === "lines") return Array.isArray(value) ? value.join("\n") : "";
  if (setting.kind === "languages") return (value as Record<string, string>) ?? { en: "" };
  // Left alone, a switch stays unsaid.
  if (setting.kind === "yes") return value === undefined ? "" : Boolean(value);
  return value === undefined || value === null ? "" : String(value);
}

interface FileProblem {
  pointer: string;
  message: string;
}

/** The settings of one file, each with what is wrong beside it. */
function Editor({
  path,
  text,
  settings,
  problems,
  onLeave,
  onPut,
}: {
  path: string;
  text: string;
  settings: Setting[];
  problems: FileProblem[];
  onLeave: () => void;
  onPut: (text: string) => void;
}) {
  const [values, setValues] = useState(() =>
    Object.fromEntries(settings.map((setting) => [setting.path, initial(text, setting)])),
  );
  const set = (setting: Setting, value: Value) => setValues((old) => ({ ...old, [setting.path]: value }));
  const wrong = (setting: Setting) =>
    problems
      .filter((one) => one.pointer.startsWith(`/${setting.path.replace(".", "/")}`))
      .map((one) => one.message)
      .join(" ");
  const others = problems.filter((one) => !settings.some((setting) => wrong(setting).includes(one.message)));
  return (
    <form
      aria-label={path}
      className="mt-3 flex max-w-prose flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        onPut(written(text, settings, values));
      }}
      onKeyDown={(event) => event.key === "Escape" && onLeave()}
    >
      {settings.map((setting, at) => (
        <OneSetting
          key={setting.path}
          setting={setting}
          value={values[setting.path]!}
          error={wrong(setting)}
          autoFocus={at === 0}
          onChange={(value) => set(setting, value)}
        />
      ))}
      <FileEnd problems={others} onLeave={onLeave} />
    </form>
  );
}

function OneSetting({
  setting,
  value,
  error,
  autoFocus,
  onChange,
}: {
  setting: Setting;
  value: Value;
  error: string;
  autoFocus: boolean;
  onChange: (value: Value) => void;
}) {
  if (setting.kind === "yes") {
    return (
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={value === true} onChange={(event) => onChange(event.target.checked)} />
        {setting.label}
        {error && <span className="text-bad text-sm">{error}</span>}
      </label>
    );
  }
  if (setting.kind === "lines") {
    return (
      <Lines label={setting.label} hint={setting.hint} error={error} value={value as string} onChange={onChange} />
    );
  }
  if (setting.kind === "choice") {
    return (
      <Select
        label={setting.label}
        value={value as string}
        options={setting.choices!}
        empty={setting.usually}
        error={error || undefined}
        onChange={onChange}
      />
    );
  }
  if (setting.kind === "languages") {
    return (
      <fieldset className="flex flex-col gap-3">
        <legend className="font-medium">{setting.label}</legend>
        <Languages
          texts={value as Record<string, string>}
          empty=""
          onChange={onChange}
          one={(language, said) => (
            <Lines
              label="Text"
              value={said}
              onChange={(next) => onChange({ ...(value as Record<string, string>), [language]: next })}
            />
          )}
        />
        {error && (
          <p role="alert" className="text-bad text-sm">
            {error}
          </p>
        )}
      </fieldset>
    );
  }
  return (
    <Field
      label={setting.label}
      hint={setting.hint}
      error={error || undefined}
      autoFocus={autoFocus}
      type={setting.kind}
      min={setting.least}
      max={setting.most}
      value={value as string}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

function NewOne({
  kind,
  taken,
  onLeave,
  onPut,
}: {
  kind: Kind;
  taken: string[];
  onLeave: () => void;
  onPut: (path: string, text: string) => void;
}) {
  const [typed, setTyped] = useState("");
  const path = `${kind.folder}/${typed}.yaml`;
  const wrong =
    typed && !name.test(typed)
      ? "Lower-case letters, digits and dashes."
      : taken.includes(path)
        ? "There is one of this name."
        : undefined;
  return (
    <form
      className="flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (typed && !wrong) onPut(path, `${kind.key}: ${typed}\n`);
      }}
    >
      <Field
        label={`Name of the new ${kind.one}`}
        autoFocus
        value={typed}
        error={wrong}
        onChange={(event) => setTyped(event.target.value)}
      />
      <Button type="submit" look="primary">
        Make it
      </Button>
      <Button onClick={onLeave}>Leave it</Button>
    </form>
  );
}
