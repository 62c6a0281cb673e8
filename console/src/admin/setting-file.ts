import { isScalar, parse, parseDocument } from "yaml";

export type Value = string | string[] | Record<string, string>;

/** One thing that a file can say, as a form asks for it. */
export interface Setting {
  /** Where it stands in the file, parts separated by dots. */
  path: string;
  label: string;
  kind: "text" | "number" | "lines" | "yes" | "languages" | "choice";
  hint?: string;
  choices?: string[];
  /** What holds while nothing is said. */
  usually?: string;
  /** Under which heading it stands. */
  group?: string;
  least?: number;
  most?: number;
}

/** Whether a form can change the file; what is not YAML is mended as text. */
export function readable(text: string): boolean {
  return parseDocument(text).errors.length === 0;
}

function read(text: string, setting: Setting): unknown {
  try {
    return parseDocument(text).getIn(setting.path.split("."), false);
  } catch {
    // A part of the path is no list of names here.
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

function words(value: unknown): string {
  if (Array.isArray(value)) return value.join(", ");
  if (value === true) return "yes";
  if (value === false) return "no";
  return typeof value === "object" && value ? Object.keys(value).join(", ") : String(value);
}

/** What a file says, in a few words. */
export function summary(text: string, settings: Setting[]): string {
  return settings
    .map((setting) => {
      const value = plain(text, setting.path);
      if (value === undefined || value === null) return "";
      return setting.path === "title" ? String(value) : `${setting.label.toLowerCase()}: ${words(value)}`;
    })
    .filter(Boolean)
    .join(" · ");
}

/** What holds, said or not. */
export function effective(text: string, settings: Setting[]): string {
  return settings
    .map((setting) => `${setting.label.toLowerCase()}: ${words(plain(text, setting.path) ?? setting.usually)}`)
    .join(" · ");
}

/** The file with these values; comments and the rest stay as they are. One that cannot be read stays as a whole. */
export function written(text: string, settings: Setting[], values: Record<string, Value>): string {
  if (!readable(text)) return text;
  const document = parseDocument(text);
  let changed = false;
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
          : setting.kind === "yes"
            ? value === ""
              ? ""
              : value === "yes"
            : value;
    const empty = said === "" || said === undefined || (Array.isArray(said) && said.length === 0);
    if (empty && read(text, setting) !== undefined) {
      document.deleteIn(path);
      changed = true;
    } else if (!empty && JSON.stringify(said) !== JSON.stringify(plain(text, setting.path))) {
      const there = document.getIn(path, true);
      // A value that only becomes another keeps the comment beside it.
      if (isScalar(there) && typeof said !== "object") there.value = said;
      else document.setIn(path, document.createNode(said));
      changed = true;
    }
  }
  return changed ? document.toString({ lineWidth: 0, flowCollectionPadding: false }) : text;
}

/** What a form begins with. */
export function initial(text: string, setting: Setting): Value {
  const value = plain(text, setting.path);
  if (setting.kind === "lines") return Array.isArray(value) ? value.join("\n") : "";
  if (setting.kind === "languages") return (value as Record<string, string>) ?? { en: "" };
  if (setting.kind === "yes") return value === undefined ? "" : words(Boolean(value));
  return value === undefined || value === null ? "" : String(value);
}
