/** The text in a language that the browser wants, else in English, else in any. */
export function inLanguage(texts: Record<string, string>): string {
  for (const wanted of [...navigator.languages, "en"]) {
    const found = texts[wanted] ?? texts[wanted.split("-")[0]!];
    if (found) return found;
  }
  return Object.values(texts)[0] ?? "";
}

/** Parts whose names begin with this, by the rest of their names. */
export function under(parts: Record<string, string>, start: string): Record<string, string> {
  return Object.fromEntries(
    Object.entries(parts)
      .filter(([name]) => name.startsWith(start))
      .map(([name, value]) => [name.slice(start.length), value]),
  );
}
