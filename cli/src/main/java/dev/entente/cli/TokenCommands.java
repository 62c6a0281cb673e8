package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.core.verify.appcode.Pskc;
import dev.entente.wire.TokenApi;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.apache.commons.codec.binary.Base32;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVParser;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Tokens that people have already. */
@Command(
        name = "token",
        addMethodSubcommands = false,
        description = "Tokens that people have already, which show codes as an authenticator app does.")
final class TokenCommands {
    @ParentCommand
    private Entente entente;

    @Command(
            name = "import",
            description = {
                "Import the seeds of tokens from a file: CSV with the columns login, serial, secret (Base32) and, where it differs,"
                        + " algorithm, digits and seconds; or a key container (PSKC, RFC 6030).",
                "Delete the file afterwards: whoever has it can make the codes."
            })
    int bring(
            @Parameters(paramLabel = "FILE") Path file,
            @Option(
                            names = "--owners",
                            paramLabel = "FILE",
                            description =
                                    "CSV with the columns serial and login, where the container doesn't say whose they are")
                    Path owners,
            @Option(
                            names = "--key-file",
                            paramLabel = "FILE",
                            description = "holds the container's key, in hexadecimal digits")
                    Path keyFile,
            @Option(names = "--password", description = "the container is under a password, which is asked for")
                    boolean password) {
        List<TokenApi.AppToken> tokens;
        try {
            tokens = file.toString().toLowerCase(Locale.ROOT).endsWith(".csv")
                    ? csv(file)
                    : container(file, owners, keyFile, password);
        } catch (Pskc.Unreadable | IllegalArgumentException e) {
            System.err.println("entente: " + file.getFileName() + ": " + e.getMessage());
            return Entente.REFUSED;
        }
        if (tokens.isEmpty()) {
            System.err.println("entente: there is no token in " + file.getFileName());
            return Entente.REFUSED;
        }
        var outcomes = new ArrayList<TokenApi.Outcome>();
        for (var from = 0; from < tokens.size(); from += TokenApi.MOST) {
            var part = tokens.subList(from, Math.min(tokens.size(), from + TokenApi.MOST));
            outcomes.addAll(entente.api()
                    .post("/app-tokens", new TokenApi.Import(List.copyOf(part)), TokenApi.Imported.class)
                    .tokens());
        }
        entente.printer()
                .list(
                        outcomes,
                        "No token.",
                        List.of(
                                new Column<>("SERIAL", TokenApi.Outcome::serial),
                                new Column<>("LOGIN", TokenApi.Outcome::login),
                                new Column<>("STATE", TokenApi.Outcome::state),
                                new Column<>("WHY", TokenApi.Outcome::why)));
        return summed(outcomes.stream().map(TokenApi.Outcome::state).toList());
    }

    /** Says how many were imported, and gives the exit code. */
    static int summed(List<String> states) {
        var refused = states.stream().filter("refused"::equals).count();
        var waits = states.stream().filter("waits"::equals).count();
        System.err.println((states.size() - refused - waits) + " imported"
                + (waits > 0 ? ", " + waits + " waiting for another administrator" : "")
                + (refused > 0 ? ", " + refused + " refused" : "") + ".");
        return refused > 0 ? Entente.REFUSED : Entente.DONE;
    }

    /** @throws IllegalArgumentException if one of these is not named in the first line */
    static void columns(CSVParser rows, String... names) {
        for (var column : names) {
            if (rows.getHeaderNames().stream().noneMatch(column::equalsIgnoreCase)) {
                throw new IllegalArgumentException("the column " + column + " is missing in its first line");
            }
        }
    }

    static CSVFormat format() {
        return CSVFormat.DEFAULT
                .builder()
                .setHeader()
                .setSkipHeaderRecord(true)
                .setIgnoreHeaderCase(true)
                .setTrim(true)
                .get();
    }

    private static List<TokenApi.AppToken> csv(Path file) {
        try (var reader = Files.newBufferedReader(file);
                var rows = format().parse(reader)) {
            columns(rows, "login", "serial", "secret");
            var tokens = new ArrayList<TokenApi.AppToken>();
            for (var row : rows) {
                tokens.add(new TokenApi.AppToken(
                        row.get("login"),
                        row.get("serial"),
                        row.get("secret"),
                        row.isSet("algorithm") && !row.get("algorithm").isEmpty()
                                ? row.get("algorithm").toUpperCase(Locale.ROOT).replace("-", "")
                                : "SHA1",
                        number(row.isSet("digits") ? row.get("digits") : "", 6, row.getRecordNumber()),
                        number(row.isSet("seconds") ? row.get("seconds") : "", 30, row.getRecordNumber())));
            }
            return tokens;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static int number(String text, int usual, long row) {
        if (text.isEmpty()) {
            return usual;
        }
        if (!text.matches("[0-9]{1,3}")) {
            throw new IllegalArgumentException("row " + row + ": \"" + text + "\" isn't a number");
        }
        return Integer.parseInt(text);
    }

    private static List<TokenApi.AppToken> container(Path file, Path owners, Path keyFile, boolean password)
            throws Pskc.Unreadable {
        try {
            var keys = Pskc.read(
                    Files.readAllBytes(file),
                    keyFile == null
                            ? null
                            : HexFormat.of().parseHex(Files.readString(keyFile).strip()),
                    password
                            ? AccessCommands.password("Password of the container")
                                    .toCharArray()
                            : null);
            var whose = owners == null ? Map.<String, String>of() : whose(owners);
            var tokens = new ArrayList<TokenApi.AppToken>();
            for (var key : keys) {
                if (!key.algorithm().endsWith(":totp")) {
                    throw new IllegalArgumentException("the key " + key.serial()
                            + " isn't one by time (TOTP), and no others are taken: " + key.algorithm());
                }
                tokens.add(new TokenApi.AppToken(
                        whose.getOrDefault(key.serial(), login(key.user())),
                        key.serial(),
                        new Base32().encodeToString(key.secret()).replace("=", ""),
                        key.kind().hash(),
                        key.kind().digits(),
                        key.kind().seconds()));
            }
            return tokens;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** A container names people by distinguished names (RFC 6030 section 4.3.1), of which the first part is the login name. */
    private static String login(String user) {
        return user == null ? "" : user.contains("=") ? user.replaceAll("^[^=]*=([^,]*).*", "$1") : user;
    }

    private static Map<String, String> whose(Path owners) throws IOException {
        try (var reader = Files.newBufferedReader(owners);
                var rows = format().parse(reader)) {
            var whose = new HashMap<String, String>();
            for (var row : rows) {
                whose.put(row.get("serial"), row.get("login"));
            }
            return whose;
        }
    }
}
