import { describe, expect, it } from "vitest";
import { parse } from "yaml";
import { initial, written } from "./message-file";

const message = {
  subjects: { en: "Your code" },
  texts: { en: "Hello {name},\n\n    {code}\n" },
};

describe("the file of a message", () => {
  it("begins with what is in force", () => {
    expect(initial(message)).toEqual({ en: { subject: "Your code", text: "Hello {name},\n\n    {code}\n" } });
  });

  it("begins with what the file says, though a language lacks something", () => {
    expect(initial(message, "message: code\nsubject: { en: A, nb: B }\ntext: { en: C }\n")).toEqual({
      en: { subject: "A", text: "C" },
      nb: { subject: "B", text: "" },
    });
  });

  it("begins with what is in force where the file cannot be read", () => {
    expect(Object.keys(initial(message, "message: [code"))).toEqual(["en"]);
  });

  it("is read back as it was written", () => {
    const texts = { en: { subject: "{organisation}: code", text: "A: {code}\nB # no comment\n" } };
    const file = written("code", texts);
    expect(parse(file).message).toBe("code");
    expect(initial(message, file)).toEqual(texts);
  });

  it("keeps what else stands in it, and loses a language that was taken away", () => {
    const file = "# by the harbour office\nmessage: code\nsubject: { en: A, nb: B }\ntext: { en: C, nb: D }\n";
    const next = written("code", { nb: { subject: "B", text: "D {code}" } }, file);
    expect(next).toContain("# by the harbour office");
    expect(parse(next)).toEqual({ message: "code", subject: { nb: "B" }, text: { nb: "D {code}" } });
  });
});
