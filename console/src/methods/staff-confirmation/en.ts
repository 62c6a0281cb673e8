export const en = {
  label: "Confirmation by the help desk",
  name: "Ask the help desk",
  about: "They check who you are, and confirm it",
  title: "Call the help desk",
  what: (helpDesk: string) =>
    `Contact the help desk: ${helpDesk}. Tell them the name you sign in with, and read them this number:`,
  number: "Number to read to the help desk",
  waiting: "Waiting for the help desk. This page goes on by itself, so leave it open.",
  expired: "It’s too late for this number. Get a new one.",
  again: "Get a new number",
  trouble: "The help desk can’t find it?",
  first: "Check that they have the name you typed here, letter by letter, and all six digits.",
  add: "Set up questions for the help desk",
  addTitle: "Questions for the help desk",
  addWhat: (many: number) =>
    `Choose ${many} questions that the help desk asks when you call. They type what they hear and never see your answers, so choose words that are easy to say.`,
  ready: "Your questions for the help desk are set up.",
  notMine: "The help desk never asks for a password. You choose the new one yourself, on this page.",
};

/** What a manager reads who is asked to confirm somebody. */
export const managers = {
  opening: "Opening …",
  title: (name: string) => `Is it ${name}?`,
  says: (name: string, network: string) =>
    `Someone who says they’re ${name} can’t sign in, and asked from ${network}. You’re listed as their manager. Before you confirm that it’s really them, do this:`,
  checklist: "Before you confirm",
  number: "Number on their screen",
  numberHint: "Six digits. Have them read it to you",
  numberWrong: "Type all six digits.",
  confirm: "Yes, it’s them",
  deny: "No, deny it",
  tick: "Tick everything on the list to confirm.",
  confirmed: "It’s confirmed",
  confirmedSays: (name: string) => `${name} goes on in their own browser. You never see or set a password.`,
  more: (name: string) =>
    `${name} has special rights, so the help desk has to confirm, too. They have to call there now.`,
  denied: "It’s denied",
  deniedSays: (name: string) => `Nothing was changed. ${name} and the administrators are told.`,
};
