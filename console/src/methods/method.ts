import type { LucideIcon } from "lucide-react";
import type { ComponentType } from "react";
import type { Attempt, Enrolment, OfferedEnrolment, Step } from "../portal/api";

/** What a method is called and how it is asked for, in one language. */
export interface MethodWords {
  /** In the lists of administrators. */
  label: string;
  /** As people choose it. */
  name: string;
  about: string;
  /** Heading of its page. */
  title: string;
  /** What is typed there, if anything is. */
  field?: string;
}

/** A page that asks for this method's answer. */
export type Asking = Step & {
  /** Another method can be chosen. */
  onOtherWay?: () => void;
  /** To be asked once more, where something has to be typed before. */
  onAgain?: () => void;
};

/** A page that sets the method up. */
export interface SettingUp {
  offered: OfferedEnrolment;
  error: string;
  busy: boolean;
  onBack: () => void;
  /** What the person or their device answers; for what counts already, that it was read. */
  onConfirm: (answer: { code?: string; parts?: Record<string, string> }) => void;
}

/** Everything that the pages know of one method. Each is a folder here, and nothing else lists it. */
export interface MethodView {
  /** As in policy files. */
  method: string;
  icon: LucideIcon;
  words: MethodWords;
  /** How it works unless the configuration says otherwise, as `methods.yaml` says it. */
  usually: { life?: string; tries: string; alone: "yes" | "no" };
  /** What is asked before a challenge is, if anything is; ends with a challenge. */
  Before?: ComponentType<Asking>;
  /** Whether that page is needed in this attempt; always if nothing is said. */
  wantsBefore?: (attempt: Attempt) => boolean;
  Ask: ComponentType<Asking>;
  /** About one that a person has, instead of since when; `since` says that. */
  listed?: (one: Enrolment, since: string) => string;
  /** For methods that people set up by themselves. */
  setUp?: {
    /** On the button, for somebody who has or has not set one up. */
    start: (has: boolean) => string;
    ready: string;
    Page: ComponentType<SettingUp>;
  };
}
