export const en = {
  label: "Text code",
  name: "A code by text message",
  about: "Sent to the phone number your organisation has for you",
  title: "Check your phone",
  field: "Code",
  tooShort: "Type the whole code.",
  what: (organisation: string) =>
    `If everything you typed is right and you can do this here, we’ve sent a text message to the phone number ${organisation} has for you.`,
  trouble: "No text message?",
  first: "Wait a minute. At sea or abroad a text message can take longer.",

  beforeTitle: "Which number is yours?",
  before: (organisation: string) =>
    `So that no one else can have your phone buzz, type the last four digits of the number ${organisation} has for you.`,
  end: "Last four digits",
  endWrong: "Type four digits, such as 0123.",
  noNumber: "If your number has changed, use another method, or have it changed first.",
  go: "Send the text message",
};
