package dev.entente.cli;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import picocli.CommandLine.ITypeConverter;
import picocli.CommandLine.TypeConversionException;

/** Times as they are typed, the same for every option: RFC 3339 with a zone, or without one by this machine's clock. */
final class Times implements ITypeConverter<Instant> {
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
