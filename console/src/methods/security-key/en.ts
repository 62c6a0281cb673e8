export const en = {
  label: "Security key",
  name: "A security key",
  about: "A small key that you plug in or hold to your phone, and touch",
  title: "Use your security key",
  what: "Your browser asks for your key. Plug it in or hold it to your phone, and touch it when it blinks.",
  use: "Use security key",
  waiting: "Follow what your browser asks",
  cancelled: "No security key was used. Try again, or choose another method.",
  trouble: "Doesn’t work?",
  first: "A key that goes into another device: finish there, or choose another method.",
  only: "Only keys you set up here before can be used.",

  add: "Add a security key",
  addTitle: "Add a security key",
  addSays: (organisation: string) =>
    `Keep it with you: at ${organisation} it’s asked for after another method, and you only touch it.`,
  create: "Register key",
  notCreated: "No key was registered. Try again.",
  ready: "Your security key is set up. You can use it next time.",
};
