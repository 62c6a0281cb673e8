export const en = {
  label: "Recovery code",
  name: "A recovery code",
  about: "One of the codes you saved on paper",
  title: "Type a recovery code",
  field: "Recovery code",
  tooShort: "Type all the letters and digits of the recovery code.",
  what: () => "Each recovery code works once. Cross it out when you’ve used it.",
  trouble: "Doesn’t work?",
  first: "Use a code you haven’t crossed out. Capital and small letters both work.",

  create: "Create recovery codes",
  createNew: "Create new recovery codes",
  ready: "Your recovery codes are ready. Any earlier ones no longer work.",
  left: (many: number) => `${many} left`,
  yours: "Your recovery codes",
  keep: (organisation: string) =>
    `Keep them on paper, away from your phone. Each works once at ${organisation}. We won’t show them again.`,
  print: "Print",
  saved: "I’ve saved them",
};
