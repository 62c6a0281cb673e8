import { FileKey2, Mail, Smartphone } from "lucide-react";
import type { LucideIcon } from "lucide-react";

interface Way {
  icon: LucideIcon;
  placeholder: string;
  /** How many letters and digits a code may have, without what separates them. */
  lengths: number[];
  digits: boolean;
}

/** How each method is asked for; its words are among the texts of the portal. */
export const ways: Record<string, Way> = {
  // Mostly eight digits; sixteen letters and digits where those could be guessed by now.
  "email-code": { icon: Mail, placeholder: "0000 0000", lengths: [8, 16], digits: false },
  "app-code": { icon: Smartphone, placeholder: "000 000", lengths: [6], digits: true },
  "recovery-code": { icon: FileKey2, placeholder: "abcd-efg2-345h", lengths: [10, 14], digits: false },
};
