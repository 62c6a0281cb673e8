import { FileKey2, Mail, Smartphone } from "lucide-react";
import type { LucideIcon } from "lucide-react";

interface Way {
  name: string;
  about: string;
  icon: LucideIcon;
  title: string;
  label: string;
  placeholder: string;
  /** How many letters and digits a code may have, without what separates them. */
  lengths: number[];
  tooShort: string;
  digits: boolean;
}

/** Each method in people's words. */
export const ways: Record<string, Way> = {
  "email-code": {
    name: "A code by e-mail",
    about: "Sent to the address your organisation has for you",
    icon: Mail,
    title: "Check your e-mail",
    label: "Code",
    placeholder: "0000 0000",
    lengths: [8, 16],
    tooShort: "Type the whole code from the e-mail.",
    // Mostly eight digits; sixteen letters and digits where those could be guessed by now.
    digits: false,
  },
  "app-code": {
    name: "Your authenticator app",
    about: "The six digits it shows now",
    icon: Smartphone,
    title: "Open your authenticator app",
    label: "Code in the app",
    placeholder: "000 000",
    lengths: [6],
    tooShort: "The app shows six digits.",
    digits: true,
  },
  "recovery-code": {
    name: "A recovery code",
    about: "One of the codes you saved on paper",
    icon: FileKey2,
    title: "Type a recovery code",
    label: "Recovery code",
    placeholder: "abcd-efg2-345h",
    lengths: [10, 14],
    tooShort: "Type all the letters and digits of the recovery code.",
    digits: false,
  },
};
