import type { PasswordRules } from "../rules";

const and = (names: string[]) => names.join(" and ");
const list = (parts: string[]) => new Intl.ListFormat("en-GB", { type: "conjunction" }).format(parts);
const goodFor: Record<string, string> = {
  reset: "get a new password",
  unlock: "unlock your account",
  change: "change your password",
  details: "change these methods",
};
const dayAndMonth = { day: "numeric", month: "long" } as const;

/** What the portal says in English. Another language is a file beside this one with the same entries. */
export const en = {
  continue: "Continue",
  back: "Back",
  tryAgain: "Try again",
  startAgain: "Start again",
  wentWrong: "Something went wrong. Try again.",
  urgent: (helpDesk: string) => `If it’s urgent, contact the help desk: ${helpDesk}.`,
  contact: (helpDesk: string) => `Contact the help desk: ${helpDesk}.`,

  page: {
    title: (page: string, organisation: string) => [page, organisation].filter(Boolean).join(" · "),
    helpDesk: (helpDesk: string) => `Help desk: ${helpDesk}.`,
    never: "Never tell anyone your password or a code.",
    unusable: "This page cannot work here",
    unusableWhy:
      "Your password is encrypted on your own device, and this browser only allows that over a protected connection. Open the address with https:// in front, or use a current browser.",
  },
  reference: {
    label: "Reference",
    about: "This isn’t a code. You can read it out to the help desk.",
  },

  /** What people come for, in their words. */
  wishes: {
    reset: {
      wish: "I forgot my password",
      about: "Choose a new one",
      title: "Get a new password",
      says: (organisation: string) =>
        `First we verify that it’s you. Then you choose a new password for ${organisation}. This takes about a minute.`,
    },
    unlock: {
      wish: "My account is locked",
      about: "Unlock it and keep your password",
      title: "Unlock your account",
      says: (organisation: string) =>
        `First we verify that it’s you. Then we unlock your account for ${organisation}. This takes about a minute.`,
    },
    change: {
      wish: "I want to change my password",
      about: "You know the current one",
      title: "Change your password",
      says: (organisation: string) =>
        `First we verify that it’s you. Then you type your current password and a new one for ${organisation}. This takes about a minute.`,
    },
    details: {
      wish: "I want to prepare for next time",
      about: "Set up ways to verify that it’s you",
      title: "Set up ways to verify that it’s you",
      says: (organisation: string) =>
        `First we verify that it’s you. Then you add an app or recovery codes for ${organisation}. This takes about a minute.`,
    },
  } as Record<string, { wish: string; about: string; title: string; says: (organisation: string) => string }>,

  start: {
    working:
      "A lot of people are starting from your network right now, so your browser does a short calculation first. It takes a few seconds, and you don’t have to do anything.",
    title: "How can we help?",
    paused: (until: string) => (until ? `Paused for now; come back ${until}` : "Paused for now"),
    name: "Your sign-in name",
    nameHint: "The name you use to sign in, such as first.last",
    nameMissing: "Type the name you sign in with.",
  },
  paused: {
    title: "Paused for now",
    says: (until: string) =>
      `Your organisation has paused this${until ? `. Come back ${until}.` : " for now. Come back later."} Nothing has changed.`,
  },
  notReady: {
    title: "Not available right now",
    says: "We can’t send codes right now, so you couldn’t finish. Try again in a few minutes.",
  },

  choose: {
    title: "Verify that it’s you",
    says: "Choose a method you can use now.",
    again: "One more method",
    saysAgain: (name: string) => `${name} was right. To protect your account, we need one more method.`,
    thatOne: "That",
    none: (helpDesk: string) =>
      `There’s no other method you can use right now. If someone kept trying your name, one may open again by tomorrow, and on a browser you’ve used here before it’s open already. Or contact the help desk: ${helpDesk}.`,
    cannot: "Can’t use any of these?",
    cannotSays: (helpDesk: string) => `Contact the help desk: ${helpDesk}. They can help you get back in.`,
  },
  addresses: {
    title: "Choose an address",
    says: "Your organisation has more than one address for you. Only part of each is shown.",
    none: "Can’t open any of these mailboxes?",
  },
  code: {
    sentAgain: "Use the newest code. Earlier ones no longer work.",
    valid: (minutes: number) => `Valid for about ${minutes} more ${minutes === 1 ? "minute" : "minutes"}`,
    expired: "This code has expired. Send a new one",
    send: "Send a new code",
    left: (many: number) => `${many} left`,
    noneLeft: "You’ve had all the codes for this attempt. Start again to get more.",
    spent: "This code can’t be tried again.",
    askAgain: "Try again",
    nothingYet: "Nothing yet?",
    nothingSays:
      "If someone else keeps asking in your name, no more are sent for up to an hour. Use the last code you got (it works for the whole hour), choose another method, or use a browser you’ve used here before.",
    mistyped: "if you mistyped your name.",
    strangers:
      "If someone else keeps trying your name, a method can be closed to unfamiliar browsers for a few hours. Choose another method, use a browser you’ve used here before, or come back later.",
    other: "Use another method",
  },
  leave: {
    button: "Leave",
    ask: "Leave this page?",
    says: "What you’ve verified is forgotten, and you start again next time.",
    stay: "Stay here",
    go: "Leave",
    left: "You’ve left. Nothing of yours is kept on this page.",
  },
  idle: {
    title: "Are you still there?",
    says: (seconds: number) =>
      `This page closes in ${seconds} ${seconds === 1 ? "second" : "seconds"}, so that no one else can use it.`,
    soon: "This page closes within a minute, so that no one else can use it. Press any key to stay.",
    stay: "I’m still here",
    over: "This page was closed because no one used it. Start again.",
  },
  terms: { title: "Before you go on", accept: "I accept", stop: "Stop here" },

  password: {
    change: "Change your password",
    choose: "Choose a new password",
    says: (accounts: string[]) =>
      `For ${and(accounts)}. Three or four unrelated words and a digit make a good password.`,
    refusedBy: (directories: string[]) => `Not accepted by ${and(directories)}`,
    setIn: (directories: string[]) => `It’s already set in ${and(directories)}.`,
    current: "Current password",
    new: "New password",
    show: "Show password",
    rules: "Rules",
    met: "met:",
    notYet: "not yet:",
    moreRules: "Your organisation’s directory may have more rules, such as no password you’ve used before.",
    notMet: "This password doesn’t meet all the rules yet. Check the list below.",
    currentMissing: "Type your current password too.",
    submitChange: "Change password",
    submitNew: "Set new password",
    encrypted: "Your password is encrypted on this device before it’s sent. No one in between can read it.",
    tooLong: "This password is too long.",
    untrusted: (helpDesk: string, reference: string) =>
      `We stopped, and your password wasn’t sent: the list of who may receive it isn’t signed correctly. Give the help desk (${helpDesk}) the reference ${reference}.`,
    notSent: (reference: string) =>
      `Something went wrong, and your password wasn’t sent. Try again. The reference is ${reference}.`,
  },
  /** A password rule as a person reads it. */
  rule: {
    "min-length": (rules: PasswordRules) => `At least ${rules.minLength} characters`,
    "max-length": (rules: PasswordRules) => `At most ${rules.maxLength} characters`,
    kinds: (rules: PasswordRules) =>
      `${["", "", "Two", "Three", "Four"][rules.kinds]} kinds of characters: lower case, upper case, digits, symbols`,
    "no-personal-details": () => "No part of your name or sign-in name",
    "blocked-words": (rules: PasswordRules) =>
      `None of these words: ${rules.blockedWords.slice(0, 8).join(", ")}${rules.blockedWords.length > 8 ? ", …" : ""}`,
  },
  unlock: {
    title: "Unlock your account",
    says: "Your password stays the same. If you find you’ve forgotten it, you can choose a new one afterwards.",
    submit: "Unlock my account",
    failed: "Something went wrong, and nothing has changed. Try again.",
  },

  outcomes: {
    reset: {
      working: "Setting your new password",
      done: "Your new password works",
      not: "Your password hasn’t changed",
    },
    change: { working: "Changing your password", done: "Your new password works", not: "Your password hasn’t changed" },
    details: { working: "Saving", done: "You’re all set", not: "Nothing has changed" },
    unlock: {
      working: "Unlocking your account",
      done: "Your account is unlocked",
      not: "Your account is still locked",
    },
  } as Record<string, { working: string; done: string; not: string }>,
  waiting: {
    title: "Still trying",
    says: "This is taking longer than usual. Until then, your current password stays the same.",
    saysToo: "You can close this page: we’ll e-mail you when it’s done.",
  },
  result: {
    unsure: "We’re not sure it worked",
    partly: "Partly done",
    blocked: "No tries left",
    expired: "You ran out of time",
    unlocked: "Sign in with your usual password.",
    prepared: "Next time you forget your password, you can use the methods you’ve set up.",
    reset:
      "Use it from now on. It can take a few minutes to reach every office, so some systems may still ask for the old one.",
    told: "We’ve also e-mailed you about this.",
    nothing: "Nothing has changed. Start again when you can read your e-mail.",
    helpDesk: (helpDesk: string) => `The help desk can see what happened: ${helpDesk}. Give them the reference`,
    chooseNew: "Choose a new password after all",
    signIn: "Go to sign-in",
    prepare: "Prepare for next time",
    finish: "Done",
    rest: "Try again for the rest",
    retryAt: (when: string) => `You can change it again ${when}.`,
    states: {
      waiting: "waiting",
      working: "being set",
      done: "new password set",
      refused: "refused",
      failed: "not changed",
      unknown: "not sure",
    } as Record<string, string>,
    unlockStates: { working: "being unlocked", done: "unlocked", failed: "not unlocked" } as Record<string, string>,
  },
  /** A moment in the near future, `days` from today. */
  moment: (at: Date, days: number) => {
    const clock = at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
    if (days === 0) return `today at ${clock}`;
    if (days === 1) return `tomorrow at ${clock}`;
    return `on ${at.toLocaleDateString("en-GB", { weekday: "long", ...dayAndMonth })} at ${clock}`;
  },

  details: {
    title: "Your methods",
    says: "With more than one, you can get back in even when one isn’t at hand.",
    none: "None yet.",
    nothingElse: "Your organisation accepts nothing else from you right now, so there’s nothing to add.",
    since: (at: Date) => `since ${at.toLocaleDateString("en-GB", { ...dayAndMonth, year: "numeric" })}`,
    fromOrganisation: (label: string) => `${label}, from your organisation`,
    unknownTo: (directories: string[], here: boolean) =>
      `${and(directories)} ${directories.length === 1 ? "doesn’t" : "don’t"} know it yet. ` +
      (here
        ? `Change your password once in this browser, and ${directories.length === 1 ? "it will" : "they will"}.`
        : "Ask an administrator, or set it up again in the browser where you change your password."),
    /** Actions by their names in policies. */
    goodFor: (actions: string[]) => {
      const known = actions.flatMap((action) => goodFor[action] ?? []);
      return `Lets you ${list(known)}.`;
    },
    countsNoMore: "Your organisation doesn’t accept this one from you any more. You can remove it.",
    thumbprint: "Or read this to an administrator",
    renameOne: (label: string) => `Rename ${label}`,
    name: "Name",
    renamed: (label: string) => `It’s called ${label} now.`,
    save: "Save",
    remove: "Remove",
    removeOne: (label: string) => `Remove ${label}`,
    removeAsk: "You won’t be able to use it any more. Remove it?",
    keep: "Keep",
    removed: (label: string) => `${label} was removed.`,
    done: "Done",
  },
  notMe: {
    title: "Wasn’t this you?",
    says: "You came here from a message about your account. If you didn’t do what it says, raise the alarm now.",
    submit: "This wasn’t me: raise the alarm",
    failed: "Something went wrong. Call the help desk.",
    close: (helpDesk: string) => `If it was you, close this page. Questions: ${helpDesk}.`,
    raised: "Alarm raised",
    call: "Now call the help desk",
    tell: "Tell them the reference",
    sure: "They’ll make sure no one else has access to your accounts.",
    ends: "Anything under way in your name stops.",
    tells: "Your organisation gets a message.",
    mayClose:
      "You can also close everything in your name here until you’ve talked to the help desk: no new password, no unlocking, no change of your methods, not even by you.",
    submitClose: "Raise the alarm and close everything",
    ended: "What was under way in your name has been stopped.",
    closed:
      "Until someone there has talked to you, nothing can be done in your name here: no new password, no unlocking, no change of your methods.",
  },
  quiet: {
    title: "Messages about your account",
    says: "You came here from a message. You can choose not to get messages like it any more.",
    off: "Don’t send me these any more",
    on: "Send them to me again",
    failed: "That didn’t work. Try the link of a newer message.",
    about: {
      reset: "when your password was reset",
      unlock: "when your account was unlocked",
      change: "when your password was changed",
      "new-method": "when your methods changed",
      failure: "when someone tried to use your name and failed",
      expiry: "before your password ends",
      invitation: "that you can set up ways to show that it’s you",
    },
    isOff: (about: string) => `You won’t be told any more ${about}.`,
    isOn: (about: string) => `You will be told ${about}.`,
  },
};
