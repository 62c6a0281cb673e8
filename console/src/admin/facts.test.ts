import { describe, expect, it } from "vitest";
import { parse } from "yaml";
import { addCondition, say, sayProof, titleOf, unsay } from "./facts";

const file = `# The ring that goes first.
policy: first-ring
who: scope first-ring # a stable quarter
prove:
  reset: { methods: 1, any-of: [email-code] }
limit: { resets: 3 per 24h }
`;

const inherited = [
  { name: "prove.unlock.methods", value: "1", source: "defaults.yaml" },
  { name: "prove.unlock.any-of", value: "email-code, app-code", source: "defaults.yaml" },
];

describe("saying a fact otherwise", () => {
  it("changes that fact alone and keeps comments", () => {
    const said = say(file, [], "limit.resets", "5 per 24h");
    expect(said).toContain("# The ring that goes first.");
    expect(said).toContain("# a stable quarter");
    expect(parse(said)).toEqual({ ...parse(file), limit: { resets: "5 per 24h" } });
  });

  it("makes the parts that were not there", () => {
    expect(parse(say(file, [], "deliver.to", ["shore", "fleet"])).deliver).toEqual({ to: ["shore", "fleet"] });
  });

  it("brings along what a requirement inherited, as it is said as a whole", () => {
    expect(parse(say(file, inherited, "prove.unlock.methods", 2)).prove.unlock).toEqual({
      methods: 2,
      "any-of": ["email-code", "app-code"],
    });
  });

  it("leaves a list of methods out when none is chosen", () => {
    const must = say(file, [], "prove.reset.must-include", ["email-code"]);
    expect(parse(must).prove.reset["must-include"]).toEqual(["email-code"]);
    expect(parse(say(must, [], "prove.reset.must-include", [])).prove.reset).toEqual(parse(file).prove.reset);
  });

  it("keeps an empty list where it means nothing at all", () => {
    expect(parse(say(file, [], "allow", [])).allow).toEqual([]);
  });
});

describe("inheriting again", () => {
  it("takes away what the file says of it", () => {
    expect(parse(unsay(file, "limit.resets")).limit).toEqual({});
    expect(parse(unsay(file, "prove.reset.methods")).prove).toEqual({});
  });

  it("is nothing where nothing was said", () => {
    expect(parse(unsay(file, "terms"))).toEqual(parse(file));
  });
});

describe("conditions", () => {
  it("are added one after the other", () => {
    const one = addCondition(file, "prove.stricter", { when: "privileged", methods: 2 });
    const two = addCondition(one, "prove.stricter", { when: "unknown-device", methods: 3 });
    expect(parse(two).prove.stricter).toEqual([
      { when: "privileged", methods: 2 },
      { when: "unknown-device", methods: 3 },
    ]);
    expect(parse(two).prove.reset).toEqual(parse(file).prove.reset);
  });
});

describe("titles", () => {
  it.each([
    ["allow", "Allowed actions"],
    ["prove.unlock.any-of", "To unlock: accepted methods"],
    ["tell.administrators", "Tell administrators about"],
    ["something.new", "something.new"],
  ])("of %s is %s", (name, title) => {
    expect(titleOf(name)).toBe(title);
  });
});

describe("what one action asks for", () => {
  it("is said as a whole, without what is usual, and comments stay", () => {
    const wanted = {
      methods: 2,
      factors: 1,
      "any-of": ["email-code", "passkey"],
      "must-include": ["passkey"],
      first: [],
    };
    const said = sayProof(file, "reset", wanted);
    expect(said).toContain("# The ring that goes first.");
    expect(parse(said).prove.reset).toEqual({
      methods: 2,
      "any-of": ["email-code", "passkey"],
      "must-include": ["passkey"],
    });
  });
});
