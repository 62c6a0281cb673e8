import {
  deliveryStateValues,
  directoryKindValues,
  explanationActionValues,
  mailSettingsSecurityValues,
} from "../shared/api-types";
import policy from "../../../docs/schema/policy.json";

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

const { prove, tell, limit } = policy.properties;

/** What a policy file can say, as its schema has it. */
export const policyWords = {
  methods: prove.properties.reset.properties["any-of"].items.enum,
  // The older word for new-method is still read, and not offered.
  occasions: tell.properties.person.items.enum.filter((one) => one !== "details"),
  dispensable: tell.properties["may-switch-off"].items.enum,
  onAlarm: tell.properties.alarm.enum,
  forAdministrators: tell.properties.administrators.items.enum,
  disabledAccount: limit.properties["disabled-account"].enum,
};
