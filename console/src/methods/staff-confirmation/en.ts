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
  notMine: "The help desk never asks for a password. You choose the new one yourself, on this page.",
};
