import { FileKey2, Mail, Smartphone } from "lucide-react";
import type { LucideIcon } from "lucide-react";

interface Way {
  name: string;
  about: string;
  icon: LucideIcon;
  title: string;
  label: string;
  placeholder: string;
  length: number;
  tooShort: string;
  digits: boolean;
}

/** Each method in people's words. */
export const ways: Record<string, Way> = {
  "email-code": {
    name: "A code by e-mail",
    about: "Sent to the address that your organisation has for you",
    icon: Mail,
    title: "Check your e-mail",
    label: "Code",
    placeholder: "0000 0000",
    length: 8,
    tooShort: "The code has eight digits.",
    digits: true,
  },
  "app-code": {
    name: "Your authenticator app",
    about: "The six digits that it shows now",
    icon: Smartphone,
    title: "Open your authenticator app",
    label: "Code in the app",
    placeholder: "000 000",
    length: 6,
    tooShort: "The app shows six digits.",
    digits: true,
  },
  "recovery-code": {
    name: "A recovery code",
    about: "One of the codes that you kept on paper",
    icon: FileKey2,
    title: "Type a recovery code",
    label: "Recovery code",
    placeholder: "abcde-fgh23",
    length: 10,
    tooShort: "A recovery code has ten letters and digits.",
    digits: false,
  },
};
