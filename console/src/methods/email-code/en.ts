export const en = {
  label: "E-mail code",
  name: "A code by e-mail",
  about: "Sent to the address your organisation has for you",
  title: "Check your e-mail",
  field: "Code",
  tooShort: "Type the whole code from the e-mail.",
  what: (organisation: string) =>
    `If the name is right and you can do this here, we’ve sent a code to the e-mail address ${organisation} has for you.`,
  trouble: "No e-mail?",
  first: "Wait a minute, then check your spam folder.",
};
