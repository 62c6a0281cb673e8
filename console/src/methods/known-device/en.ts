export const en = {
  label: "Known device",
  listed: (since: string) => `A device you use here, ${since}`,
  name: "Use this device",
  about: "You chose a password here before",
  title: "Checking this device",
  what: "You used this device here before, so it counts as one proof. This takes a moment.",
  failed: "This device can’t be used as a proof. Choose another way.",
  otherWay: "Choose another way",
};
