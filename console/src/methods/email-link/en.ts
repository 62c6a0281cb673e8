export const en = {
  label: "E-mail link",
  name: "A link by e-mail",
  about: "To the address your organisation has for you",
  title: "Open the link in your e-mail",
  what: (organisation: string) =>
    `If there’s an account with this name, ${organisation} has e-mailed it a link. Opened on this device, it goes on by itself. Opened elsewhere, it asks for this number:`,
  number: "Number to type where you open the link",
  waiting: "Waiting for the link to be opened. This page goes on by itself.",
  expired: "The link has expired. Send a new one.",
  again: "Send a new link",
  trouble: "No e-mail?",
  first: "Look in your junk folder. An e-mail can take a minute.",
  notMine: "Never tell this number to anyone who calls you, and type it nowhere but on the page the link opens.",

  follow: "One moment …",
  here: "It’s confirmed",
  hereSays: "Go back to the page where you started: it goes on by itself. You can close this one.",
  elsewhereTitle: "Type the number",
  elsewhere: (action: string, network: string) =>
    `Someone who gave your name wants to ${action}. They came from ${network}. If that was you, type the two digits shown on the page where you started.`,
  actions: {
    reset: "reset your password",
    unlock: "unlock your account",
    change: "change your password",
    details: "change how you’re recognised",
  } as Record<string, string>,
  field: "Number on that page",
  fieldWrong: "Type both digits.",
  submit: "Yes, that was me",
  notMe: (helpDesk: string) =>
    `You didn’t start this, or someone gave you the number? Close this page: nothing happens without the number. Then tell the help desk: ${helpDesk}.`,
  done: "Thank you",
  doneSays: "The page where you started goes on by itself. You can close this one.",
};
