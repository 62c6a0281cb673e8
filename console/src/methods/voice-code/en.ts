export const en = {
  label: "Voice code",
  name: "A code in a phone call",
  about: "A voice reads it to you twice",
  title: "Answer your phone",
  field: "Code",
  tooShort: "Type the whole code.",
  what: (organisation: string) =>
    `If everything you typed is right and you can do this here, we’re calling the phone number ${organisation} has for you. A voice reads the code twice.`,
  trouble: "No call?",
  first: "Wait a minute, and check that the phone is on and may ring.",

  beforeTitle: "Which number is yours?",
  before: (organisation: string) =>
    `So that no one else can have your phone ring, type the last four digits of the number ${organisation} has for you.`,
  end: "Last four digits",
  endWrong: "Type four digits, such as 0123.",
  noNumber: "If your number has changed, use another method, or have it changed first.",
  go: "Call me",
};
