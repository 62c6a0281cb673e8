import {
  deliveryStateValues,
  directoryKindValues,
  explanationActionValues,
  mailSettingsSecurityValues,
} from "../shared/api-types";

/** What can be chosen, as the API's description has it. */
export const choices = {
  /** A temporary password is nothing that people do themselves. */
  action: explanationActionValues.filter((action) => action !== "temporary"),
  deliveryState: deliveryStateValues,
  directoryKind: directoryKindValues,
  mailSecurity: mailSettingsSecurityValues,
};

export type Action = (typeof choices.action)[number];

/** A value from an address, if it is one that can be chosen. */
export function chosen<T extends string>(values: readonly T[], text: string | null): T | undefined {
  return values.find((value) => value === text);
}
