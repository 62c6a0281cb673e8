package dev.entente.service.people;

import com.google.i18n.phonenumbers.NumberParseException;
import com.google.i18n.phonenumbers.PhoneNumberUtil;
import com.google.i18n.phonenumbers.PhoneNumberUtil.PhoneNumberFormat;
import com.google.i18n.phonenumbers.PhoneNumberUtil.PhoneNumberType;
import com.google.i18n.phonenumbers.PhoneNumberUtil.ValidationResult;
import dev.entente.service.platform.ServiceSettings;
import java.util.Optional;
import org.springframework.stereotype.Component;

/** Telephone numbers as people and directories write them. */
@Component
class PhoneNumbers {
    private static final int LONGEST = 60;
    private static final PhoneNumberUtil NUMBERS = PhoneNumberUtil.getInstance();

    private final String country;

    PhoneNumbers(ServiceSettings settings) {
        this.country = settings.country().isEmpty() ? null : settings.country();
    }

    /**
     * One that can be dialled.
     *
     * @param number E.164, with {@code ;ext=} where it has an extension
     * @param callsOnly whether it takes no text messages, as a landline or an extension
     */
    record Dialled(String number, boolean callsOnly) {}

    /** Reads a number; one that doesn't begin with + is one of the country that is set. Empty if nobody could dial it. */
    Optional<Dialled> read(String written) {
        if (written == null || written.length() > LONGEST) {
            return Optional.empty();
        }
        try {
            var number = NUMBERS.parse(written, country);
            if (NUMBERS.isPossibleNumberWithReason(number) != ValidationResult.IS_POSSIBLE) {
                return Optional.empty();
            }
            var plain = NUMBERS.format(number, PhoneNumberFormat.E164);
            return Optional.of(
                    number.hasExtension()
                            ? new Dialled(plain + ";ext=" + number.getExtension(), true)
                            : new Dialled(plain, NUMBERS.getNumberType(number) == PhoneNumberType.FIXED_LINE));
        } catch (NumberParseException e) {
            return Optional.empty();
        }
    }
}
