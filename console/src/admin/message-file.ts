import { parse, parseDocument, stringify } from "yaml";
import type { MessageText } from "./api";

/** What is said in one language. */
export interface Said {
  subject: string;
  text: string;
}

type Texts = Record<string, Said>;

/** The texts to begin with: what the file says, else what is in force. */
export function initial(message: Pick<MessageText, "subjects" | "texts">, file?: string): Texts {
  let said: { subject?: Record<string, string>; text?: Record<string, string> } = {
    subject: message.subjects,
    text: message.texts,
  };
  try {
    if (file !== undefined) said = parse(file) ?? {};
  } catch {
    // What is in force is a better beginning than a file that cannot be read.
  }
  const languages = new Set([...Object.keys(said.subject ?? {}), ...Object.keys(said.text ?? {})]);
  return Object.fromEntries(
    [...languages].sort().map((one) => [one, { subject: said.subject?.[one] ?? "", text: said.text?.[one] ?? "" }]),
  );
}

/** The file with these texts; what else stands in it stays. */
export function written(name: string, texts: Texts, file?: string): string {
  const part = (which: "subject" | "text") =>
    Object.fromEntries(Object.entries(texts).map(([language, said]) => [language, said[which]]));
  const said = { subject: part("subject"), text: part("text") };
  if (file === undefined) return stringify({ message: name, ...said }, { lineWidth: 0 });
  const document = parseDocument(file);
  document.setIn(["subject"], document.createNode(said.subject));
  document.setIn(["text"], document.createNode(said.text));
  return document.toString({ lineWidth: 0 });
}
