import type { ReactNode } from "react";
import { Button, Select } from "../shared/ui";

const offered = ["en", "nb", "nn", "sv", "da", "fi", "de", "nl", "fr", "es", "pt", "it", "pl", "uk", "el"];

function nameOf(language: string): string {
  try {
    return new Intl.DisplayNames(["en"], { type: "language" }).of(language) ?? language;
  } catch {
    return language;
  }
}

/** Something said in several languages, and a way to add one and to take one away. */
export function Languages<T>({
  texts,
  empty,
  one,
  onChange,
}: {
  texts: Record<string, T>;
  empty: T;
  one: (language: string, said: T) => ReactNode;
  onChange: (texts: Record<string, T>) => void;
}) {
  return (
    <>
      {Object.entries(texts).map(([language, said]) => (
        <fieldset key={language} className="border-line flex flex-col gap-3 border-l-2 pl-3">
          <legend className="sr-only">{nameOf(language)}</legend>
          <p className="flex items-center gap-3">
            <span aria-hidden className="font-medium">
              {nameOf(language)}
            </span>
            {Object.keys(texts).length > 1 && (
              <button
                type="button"
                className="text-accent-ink ml-auto rounded-sm text-sm underline"
                onClick={() => {
                  const { [language]: _, ...rest } = texts;
                  onChange(rest);
                }}
              >
                Take {nameOf(language)} away
              </button>
            )}
          </p>
          {one(language, said)}
        </fieldset>
      ))}
      <Select
        label="Another language"
        labelled="beside"
        value=""
        empty="choose"
        onChange={(language) => language && onChange({ ...texts, [language]: empty })}
        options={[
          "",
          ...offered
            .filter((language) => !(language in texts))
            .map((language) => ({ value: language, text: nameOf(language) })),
        ]}
      />
    </>
  );
}

/** How editing a file ends: what is wrong with it and stands beside no field, and the ways out. */
export function FileEnd({
  problems,
  done,
  onLeave,
}: {
  problems: { pointer: string; message: string }[];
  done: boolean;
  onLeave: () => void;
}) {
  return (
    <>
      {problems.map((one) => (
        <p key={one.pointer + one.message} role="alert" className="text-bad text-sm">
          {one.message}
        </p>
      ))}
      <div className="flex flex-wrap items-center gap-2">
        <Button type="submit" look="primary">
          Put into the draft
        </Button>
        <Button onClick={onLeave}>Close</Button>
        <span role="status" className="text-muted">
          {done && "Saved in the draft."}
        </span>
      </div>
    </>
  );
}
