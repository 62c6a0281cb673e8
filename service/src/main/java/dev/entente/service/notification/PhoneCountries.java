package dev.entente.service.notification;

import com.google.i18n.phonenumbers.NumberParseException;
import com.google.i18n.phonenumbers.PhoneNumberUtil;

/** Where numbers are. */
final class PhoneCountries {
    private PhoneCountries() {}

    /** The country of a number (ISO 3166), or its calling code where that is shared. */
    static String of(String number) {
        try {
            var parsed = PhoneNumberUtil.getInstance().parse(number, null);
            var region = PhoneNumberUtil.getInstance().getRegionCodeForNumber(parsed);
            return region == null ? "+" + parsed.getCountryCode() : region;
        } catch (NumberParseException e) {
            return "unknown";
        }
    }
}
