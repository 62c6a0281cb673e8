import { clsx } from "clsx";
import { useState } from "react";
import { methods } from "../../methods";
import { said } from "../../shared/problem";
import { Button, Field, Lines, Notice, Select } from "../../shared/ui";
import { useDraftChange } from "../draft-change";
import { Messages } from "../messages";
import { Facts, PageHead, Section } from "../parts";
import { effective, initial, readable, summary, written } from "../setting-file";
import type { Setting, Value } from "../setting-file";
import { FileEnd, Languages } from "../texts";
import type { Page } from "../page";

export const page: Page = {
  path: "policies/rules",
  title: "Rules",
  place: "policies",
  beside: { at: 3, title: "Rules" },
  element: Rules,
};

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
    about: "Address ranges that policies can refer to.",
    settings: [
      { path: "title", label: "Title", kind: "text", hint: "As sentences use it, such as: the ships" },
      {
        path: "ranges",
        label: "Ranges",
        kind: "lines",
        hint: "One per line, such as 10.20.0.0/16 or 2001:db8:5::/48",
      },
    ],
  },
  {
    folder: "passwords",
    key: "password",
    title: "Rule sets",
    one: "rule set",
    about: "Rules for new passwords, in addition to the directory’s own.",
    settings: [
      { path: "min-length", label: "Shortest length", kind: "number", least: 1, most: 128, usually: "12" },
      { path: "max-length", label: "Longest length", kind: "number", least: 1, most: 128, usually: "128" },
      {
        path: "kinds",
        label: "Kinds of characters",
        kind: "number",
        least: 1,
        most: 4,
        usually: "1",
        hint: "Out of capital letters, small letters, digits and symbols",
      },
      { path: "no-personal-details", label: "No personal details", kind: "yes", usually: "yes" },
      { path: "blocked-words", label: "Blocked words", kind: "lines", hint: "One per line" },
    ],
  },
  {
    folder: "terms",
    key: "terms",
    title: "Terms",
    one: "terms",
    about: "What people accept before they go on. If the text changes, they’re asked again.",
    settings: [
      { path: "title", label: "Title", kind: "text" },
      { path: "texts", label: "Text", kind: "languages" },
    ],
  },
];

/** The settings of one method; names in the files are the method's own. */
function ofMethod(method: string, group: string, usually: { life?: string; tries: string; alone: string }): Setting[] {
  const settings: Setting[] = [
    { path: `${method}.tries`, label: "Tries", kind: "number", least: 1, most: 10, usually: usually.tries },
    { path: `${method}.alone`, label: "Enough alone", kind: "yes", usually: usually.alone },
    {
      path: `${method}.factor`,
      label: "Counts as",
      kind: "choice",
      choices: ["", "possession", "knowledge", "inherence"],
      usually: "possession",
      hint: "Where a policy asks for different factors",
    },
  ];
  if (usually.life) {
    settings.unshift({
      path: `${method}.life`,
      label: "Lives",
      kind: "text",
      hint: "From 1m to 1h",
      usually: usually.life,
    });
  }
  return settings.map((setting) => ({ ...setting, group }));
}

const ofMethods = Object.values(methods).map(({ method, words, usually }) => ({
  title: words.label,
  settings: ofMethod(method, words.label, usually),
}));

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
      {change.error && <Notice tone="bad">{said(change.error, "The change wasn’t made. Try again.")}</Notice>}
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
            editor(
              "methods.yaml",
              ofMethods.flatMap((one) => one.settings),
            )
          ) : (
            <div className="flex flex-wrap items-end gap-3">
              <Facts
                facts={ofMethods.map((one) => [one.title, effective(files["methods.yaml"] ?? "", one.settings)])}
              />
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
  const [put, setPut] = useState<string>();
  const next = written(text, settings, values);
  const groups = [...new Set(settings.map((setting) => setting.group ?? ""))];
  const others = problems.filter((one) => !settings.some((setting) => wrong(setting).includes(one.message)));
  if (!readable(text)) {
    return (
      <Notice tone="bad" title="This file cannot be read">
        <p>{problems.map((one) => one.message).join(" ")} Mend it under Files.</p>
        <Button onClick={onLeave} className="self-start">
          Close
        </Button>
      </Notice>
    );
  }
  return (
    <form
      aria-label={path}
      className="mt-3 flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        setPut(next);
        onPut(next);
      }}
      onKeyDown={(event) => event.key === "Escape" && onLeave()}
    >
      <div className={clsx("grid gap-6", groups.length > 1 ? "md:grid-cols-3" : "max-w-prose")}>
        {groups.map((group) => (
          <fieldset key={group} className="flex flex-col gap-3">
            {group && <legend className="mb-2 font-semibold">{group}</legend>}
            {settings
              .filter((setting) => (setting.group ?? "") === group)
              .map((setting) => (
                <OneSetting
                  key={setting.path}
                  setting={setting}
                  value={values[setting.path]!}
                  error={wrong(setting)}
                  autoFocus={setting === settings[0]}
                  onChange={(value) => set(setting, value)}
                />
              ))}
          </fieldset>
        ))}
      </div>
      <FileEnd problems={others} done={put === text && next === text} onLeave={onLeave} />
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
  if (setting.kind === "lines") {
    return (
      <Lines label={setting.label} hint={setting.hint} error={error} value={value as string} onChange={onChange} />
    );
  }
  if (setting.kind === "choice" || setting.kind === "yes") {
    return (
      <Select
        label={setting.label}
        hint={setting.hint}
        value={value as string}
        options={setting.choices ?? ["", "yes", "no"]}
        empty={usual(setting)}
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
      placeholder={usual(setting)}
      value={value as string}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

const usual = (setting: Setting) => (setting.usually ? `${setting.usually}, as usual` : undefined);

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
        ? "There’s already one with this name."
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
      <Button onClick={onLeave}>Keep it</Button>
    </form>
  );
}
