import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Badge, Button, Field, Lines } from "../shared/ui";
import type { MessageText } from "./api";
import { initial, written } from "./message-file";
import type { Said } from "./message-file";
import { Loading, Section } from "./parts";
import { FileEnd, Languages } from "./texts";
import { ask } from "./queries";

interface FileProblem {
  file: string;
  pointer: string;
  message: string;
}

const titles: Record<string, string> = {
  code: "A code",
  "password-reset": "A password was reset",
  "account-unlocked": "An account was unlocked",
  "password-changed": "A password was changed",
  "temporary-password": "A temporary password was given",
  "methods-changed": "Methods were changed",
  "attempt-failed": "An attempt failed",
  "code-for-the-hour": "The last code of an hour",
  link: "A link",
  "manager-asked": "To a manager: is it really them?",
  "text-code": "A code by text message",
  "spoken-code": "A code that is read out",
  "text-news": "News by text message",
  "method-added": "An administrator added a method",
  "method-removed": "An administrator removed a method",
  "address-changed": "Another e-mail address",
  strangers: "Someone keeps trying their name",
  "strangers-try": "Someone keeps trying a name, to administrators",
  "administrator-notice": "Something happened, to administrators",
  "administrator-digest": "The daily list, to administrators",
  "privileged-reset": "A privileged account has a new password, to administrators",
};

/** What is sent to people, in their languages. */
export function Messages({
  draft,
  files,
  problems,
  onPut,
}: {
  draft?: string;
  files: Record<string, string>;
  problems: FileProblem[];
  onPut: (path: string, text: string | null) => void;
}) {
  const [open, setOpen] = useState("");
  const messages = useQuery(
    ask.messages(
      // A draft with problems cannot be read; what is in force can.
      problems.length === 0 ? draft : undefined,
      Object.entries(files).filter(([path]) => path.startsWith("messages/")),
    ),
  );
  return (
    <Section title="Messages">
      <p className="text-muted mb-2">
        What is sent to people, in the language that their directory or their browser says. Words in braces are filled
        in.
      </p>
      <Loading query={messages}>
        {() => (
          <ul className="border-line bg-surface divide-line divide-y rounded-lg border">
            {messages.data!.map((message) => {
              const path = `messages/${message.name}.yaml`;
              const wrong = problems.filter((one) => one.file === path);
              const own = path in files;
              return (
                <li key={message.name} className="p-3">
                  <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
                    <strong className="font-medium">{titles[message.name] ?? message.name}</strong>
                    <span className="text-muted">{Object.keys(message.texts).sort().join(", ")}</span>
                    {own && <Badge tone="none">own text</Badge>}
                    <span className="ml-auto flex gap-1">
                      <Button
                        look="quiet"
                        aria-expanded={open === message.name}
                        aria-label={`Change the message ${message.name}`}
                        onClick={() => setOpen(open === message.name ? "" : message.name)}
                      >
                        Change
                      </Button>
                      {own && (
                        <Button look="quiet" onClick={() => onPut(path, null)}>
                          Built-in text
                        </Button>
                      )}
                    </span>
                  </div>
                  {open === message.name && (
                    <Editor
                      message={message}
                      file={files[path]}
                      problems={wrong}
                      onPut={(text) => onPut(path, text)}
                      onLeave={() => setOpen("")}
                    />
                  )}
                  {open !== message.name &&
                    wrong.map((one) => (
                      <p key={one.pointer + one.message} role="alert" className="text-bad text-sm">
                        {one.message}
                      </p>
                    ))}
                </li>
              );
            })}
          </ul>
        )}
      </Loading>
    </Section>
  );
}

function Editor({
  message,
  file,
  problems,
  onPut,
  onLeave,
}: {
  message: MessageText;
  file?: string;
  problems: FileProblem[];
  onPut: (text: string) => void;
  onLeave: () => void;
}) {
  const [texts, setTexts] = useState(() => initial(message, file));
  const wrong = (pointer: string) =>
    problems
      .filter((one) => one.pointer === pointer)
      .map((one) => one.message)
      .join(" ") || undefined;
  const [put, setPut] = useState<string>();
  const next = written(message.name, texts, file);
  const set = (language: string, part: Partial<Said>) =>
    setTexts((old) => ({ ...old, [language]: { ...old[language]!, ...part } }));
  return (
    <form
      aria-label={message.name}
      className="mt-3 grid gap-6 lg:grid-cols-2"
      onSubmit={(event) => {
        event.preventDefault();
        setPut(next);
        onPut(next);
      }}
      onKeyDown={(event) => event.key === "Escape" && onLeave()}
    >
      <div className="flex min-w-0 flex-col gap-4">
        <Languages
          texts={texts}
          empty={{ subject: "", text: "" }}
          onChange={setTexts}
          one={(language, said) => (
            <>
              <Field
                label="Subject"
                value={said.subject}
                error={wrong(`/subject/${language}`)}
                onChange={(event) => set(language, { subject: event.target.value })}
              />
              <Lines
                label="Text"
                most={16}
                value={said.text}
                error={wrong(`/text/${language}`)}
                onChange={(text) => set(language, { text })}
              />
            </>
          )}
        />
        <p className="text-muted text-sm break-words">
          Can stand in it: {message.placeholders.map((one) => `{${one}}`).join(" ")} {"{attribute.NAME}"}
          {message.needed.length > 0 && ` · needed: ${message.needed.map((one) => `{${one}}`).join(" ")}`}
        </p>
        <FileEnd
          problems={problems.filter((one) => !/^\/(subject|text)\/./.test(one.pointer))}
          done={put === file && next === file}
          onLeave={onLeave}
        />
      </div>
      <div className="min-w-0">
        <h3 className="mb-2 font-semibold">Preview</h3>
        {Object.entries(message.examples)
          .sort()
          .map(([language, said]) => (
            <pre
              key={language}
              lang={language}
              tabIndex={0}
              className="bg-sunken mb-3 overflow-x-auto rounded-md p-3 font-sans text-sm whitespace-pre-wrap"
            >
              {said}
            </pre>
          ))}
      </div>
    </form>
  );
}
