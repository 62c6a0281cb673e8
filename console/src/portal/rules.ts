/** The password rules of a policy, as the service sends them. The steward checks the same; this is for guidance. */
export interface PasswordRules {
  minLength: number;
  maxLength: number;
  kinds: number;
  noPersonalDetails: boolean;
  blockedWords: string[];
}

type Rule = "min-length" | "max-length" | "kinds" | "no-personal-details" | "blocked-words";

export interface Check {
  rule: Rule;
  met: boolean;
}

const SHORTEST_DETAIL = 4;

/** Every rule in force and whether the password meets it, in the order in which people see them. */
export function check(rules: PasswordRules, password: string, details: string[]): Check[] {
  const length = [...password].length;
  const lower = password.toLowerCase();
  const checks: Check[] = [
    { rule: "min-length", met: length >= rules.minLength },
    { rule: "max-length", met: length <= rules.maxLength },
  ];
  if (rules.kinds > 1) {
    checks.push({ rule: "kinds", met: kindsIn(password) >= rules.kinds });
  }
  if (rules.noPersonalDetails) {
    checks.push({ rule: "no-personal-details", met: !words(details).some((word) => lower.includes(word)) });
  }
  if (rules.blockedWords.length > 0) {
    checks.push({
      rule: "blocked-words",
      met: !rules.blockedWords.some((word) => lower.includes(word.toLowerCase())),
    });
  }
  return checks;
}

function kindsIn(password: string): number {
  const kinds = new Set<string>();
  for (const character of password) {
    if (/\p{Nd}/u.test(character)) kinds.add("digit");
    else if (/\p{Uppercase}/u.test(character)) kinds.add("upper");
    else if (/\p{Lowercase}/u.test(character)) kinds.add("lower");
    else kinds.add("other");
  }
  return kinds.size;
}

function words(details: string[]): string[] {
  return details
    .flatMap((detail) => detail.toLowerCase().split(/[^\p{L}\p{Nd}]+/u))
    .filter((word) => [...word].length >= SHORTEST_DETAIL);
}
