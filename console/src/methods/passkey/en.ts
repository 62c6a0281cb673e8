export const en = {
  label: "Passkey",
  name: "A passkey",
  about: "On this device, your phone or a security key",
  title: "Use your passkey",
  what: "Your browser asks which passkey to use. Unlock it with your PIN, finger or face.",
  use: "Use passkey",
  waiting: "Follow what your browser asks",
  cancelled: "No passkey was used. Try again, or choose another method.",
  trouble: "Doesn’t work?",
  first: "A passkey on your phone: choose “another device” when your browser asks, and scan the code it shows.",
  only: "Only passkeys you set up here before can be used.",

  add: "Add a passkey",
  addTitle: "Add a passkey",
  addSays: (organisation: string) =>
    `Your browser keeps it on this device, on your phone or on a security key. Next time you verify at ${organisation}, you only unlock it.`,
  create: "Create passkey",
  notCreated: "No passkey was created. Try again.",
  ready: "Your passkey is set up. You can use it next time.",
};
