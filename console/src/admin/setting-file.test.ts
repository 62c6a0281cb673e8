import { describe, expect, it } from "vitest";
import { effective, initial, readable, summary, written } from "./setting-file";
import type { Setting } from "./setting-file";

const settings: Setting[] = [
  { path: "title", label: "Title", kind: "text" },
  { path: "min-length", label: "Shortest length", kind: "number", usually: "12" },
  { path: "no-personal-details", label: "Without own names", kind: "yes", usually: "yes" },
  { path: "blocked-words", label: "Not in it", kind: "lines" },
  { path: "email-code.factor", label: "Counts as", kind: "choice", usually: "possession" },
];

const file = `# why it is so
password: fleet
min-length: 14 # longer than the directory asks for
blocked-words: [ferry, skerry]
other: stays
`;

const values = (text: string) => Object.fromEntries(settings.map((one) => [one.path, initial(text, one)]));

describe("a file of settings", () => {
  it("is left as it is, to the letter, when nothing is changed", () => {
    expect(written(file, settings, values(file))).toBe(file);
  });

  it("keeps comments and what no form knows", () => {
    const changed = written(file, settings, { ...values(file), "min-length": "16" });
    expect(changed).toContain("# why it is so");
    expect(changed).toContain("min-length: 16 # longer than the directory asks for");
    expect(changed).toContain("other: stays");
  });

  it("says a switch only when somebody says it", () => {
    expect(initial(file, settings[2]!)).toBe("");
    const no = written(file, settings, { ...values(file), "no-personal-details": "no" });
    expect(no).toContain("no-personal-details: false");
    expect(initial(no, settings[2]!)).toBe("no");
    const unsaid = written(no, settings, { ...values(no), "no-personal-details": "" });
    expect(unsaid).toBe(file);
  });

  it("takes lines as a list, without the empty ones", () => {
    expect(initial(file, settings[3]!)).toBe("ferry\nskerry");
    const changed = written(file, settings, { ...values(file), "blocked-words": "ferry\n\n  quay \n" });
    expect(summary(changed, settings)).toContain("not in it: ferry, quay");
    const none = written(file, settings, { ...values(file), "blocked-words": "\n" });
    expect(none).not.toContain("blocked-words");
  });

  it("makes the parts that a setting stands in", () => {
    const changed = written("", settings, { ...values(""), "email-code.factor": "knowledge" });
    expect(changed).toBe("email-code:\n  factor: knowledge\n");
    expect(effective(changed, settings)).toContain("counts as: knowledge");
  });

  it("tells what holds where nothing is said", () => {
    expect(effective("", settings)).toContain("shortest length: 12");
    expect(effective("", settings)).toContain("without own names: yes");
    expect(summary("", settings)).toBe("");
  });

  it("is not touched while it cannot be read", () => {
    const broken = "min-length: [14\n";
    expect(readable(broken)).toBe(false);
    expect(written(broken, settings, values(broken))).toBe(broken);
    expect(effective(broken, settings)).toContain("shortest length: 12");
  });

  it("survives parts that are something else than a form expects", () => {
    const odd = "email-code: 7\nmin-length: { a: b }\n";
    expect(initial(odd, settings[4]!)).toBe("");
    expect(() => summary(odd, settings)).not.toThrow();
  });
});
