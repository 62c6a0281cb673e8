package dev.entente.cli;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import picocli.CommandLine.ITypeConverter;
import picocli.CommandLine.TypeConversionException;

/** Times as they are typed, the same for every option: RFC 3339 with a zone, or without one by this machine's clock. */
final class Times implements ITypeConverter<Instant> {
    /**
     * A time as the service takes it; a day alone is all of it, by this machine's clock.
     *
     * @param over whether the day is over then
     */
    static String moment(String text, boolean over) {
        if (text == null) {
            return null;
        }
        if (text.matches("\\d{4}-\\d{2}-\\d{2}")) {
            try {
                var day = LocalDate.parse(text);
                return (over ? day.plusDays(1) : day)
                        .atStartOfDay(ZoneId.systemDefault())
                        .toInstant()
                        .toString();
            } catch (DateTimeException e) {
                throw new IllegalArgumentException("\"" + text + "\" is not a day of the calendar");
            }
        }
        try {
            return new Times().convert(text).toString();
        } catch (TypeConversionException e) {
            throw new IllegalArgumentException(e.getMessage());
        }
    }

    @Override
    public Instant convert(String text) {
        try {
            return text.matches(".*(Z|[+-]\\d\\d:\\d\\d)$")
                    ? OffsetDateTime.parse(text).toInstant()
                    : LocalDateTime.parse(text).atZone(ZoneId.systemDefault()).toInstant();
        } catch (DateTimeException e) {
            throw new TypeConversionException("\"" + text
                    + "\" is not a time; write it as 2026-12-24T08:00, or with a zone as 2026-12-24T08:00:00Z.");
        }
    }
}
