package dev.entente.steward.local;

import dev.entente.core.attempt.Cause;
import dev.entente.steward.settings.StewardFile.Guard;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.target.Target;
import dev.entente.wire.DirectoryApi.Finding;
import dev.entente.wire.StewardApi;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * A command beside the steward. It is started once for each question, gets one JSON object on standard input and answers with
 * one JSON object on standard output; docs/directories.md describes both. Exit codes: 0 done, 1 refused with a
 * {@code cause}, 2 not understood, 75 away for now and nothing done; anything else, and the end of its time, leave it unknown
 * what happened.
 */
public final class LocalTarget implements Target {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final int DONE = 0;
    private static final int REFUSED = 1;
    private static final int NOT_UNDERSTOOD = 2;
    private static final int AWAY = 75;
    private static final int LARGEST_ANSWER = 64 * 1024 * 1024;
    private static final int BATCH = 500;
    private static final long LOOK_MILLIS = 5;

    private final TargetPart.Local part;

    /** @param part names the executable */
    public LocalTarget(TargetPart.Local part) {
        this.part = part;
    }

    private JsonNode ask(String operation, Map<String, Object> more) throws Refused, Lost {
        var question = new LinkedHashMap<String, Object>();
        question.put("v", 1);
        question.put("operation", operation);
        question.putAll(more);
        try {
            var builder = new ProcessBuilder(part.command().toString());
            builder.environment().clear();
            builder.environment().put("PATH", "/usr/local/bin:/usr/bin:/bin");
            builder.redirectError(ProcessBuilder.Redirect.DISCARD);
            var process = builder.start();
            try {
                return answer(process, question);
            } finally {
                process.descendants().forEach(ProcessHandle::destroyForcibly);
                process.destroyForcibly();
            }
        } catch (IOException e) {
            throw new Lost("the command could not be run: " + e.getClass().getSimpleName());
        }
    }

    private JsonNode answer(Process process, Map<String, Object> question) throws IOException, Refused, Lost {
        try (var in = process.getOutputStream()) {
            in.write(JSON.writeValueAsBytes(question));
        }
        var until = System.nanoTime() + part.timeout().toNanos();
        var out = new ByteArrayOutputStream();
        try {
            // Never waits in a read: a child of the command may hold its output open for as long as it likes.
            for (var ended = false; !ended; ) {
                ended = process.waitFor(LOOK_MILLIS, TimeUnit.MILLISECONDS);
                var ready = process.getInputStream().available();
                if (ready > 0) {
                    out.write(process.getInputStream().readNBytes(ready));
                    ended = false;
                }
                if (System.nanoTime() - until >= 0) {
                    throw new Lost(
                            "the command did not end within " + part.timeout().toSeconds() + " s");
                }
                if (out.size() > LARGEST_ANSWER) {
                    throw new Lost("the command's answer is too long");
                }
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Lost("interrupted");
        }
        return understood(process.exitValue(), out.toString(StandardCharsets.UTF_8));
    }

    private static JsonNode understood(int code, String out) throws Refused, Lost {
        JsonNode json;
        try {
            json = JSON.readTree(out.isBlank() ? "{}" : out);
        } catch (JacksonException e) {
            throw new Lost("exit code " + code + " without JSON");
        }
        switch (code) {
            case DONE -> {
                return json;
            }
            case REFUSED -> throw new Refused(cause(json.path("cause").asString("")), "exit code 1");
            case NOT_UNDERSTOOD -> throw new Refused(Cause.DIRECTORY_ERROR, "exit code 2: not understood");
            case AWAY -> throw new Refused(Cause.UNREACHABLE, "exit code 75: away for now");
            default -> throw new Lost("exit code " + code);
        }
    }

    /** Causes by their labels, such as {@code too-short}; what is not known is a rule of the system. */
    private static Cause cause(String label) {
        var name = label.toUpperCase(Locale.ROOT).replace('-', '_');
        return Arrays.stream(Cause.values())
                .filter(c -> c.name().equals(name))
                .findFirst()
                .orElse(Cause.DIRECTORY_RULES);
    }

    @Override
    public Visit visit() {
        return new LocalVisit();
    }

    @Override
    public Visit visit(String server) {
        return new LocalVisit();
    }

    @Override
    public String read(Reading reading, Sink sink) throws Refused, Lost {
        var people = new ArrayList<StewardApi.Person>();
        for (var account : ask("list", Map.of()).path("accounts")) {
            var login = account.path("login").asString("");
            people.add(new StewardApi.Person(
                    UUID.fromString(account.path("id").asString("")),
                    login,
                    login,
                    List.of(),
                    account.path("name").asString(login),
                    account.path("correlation").asString(null),
                    null,
                    account.path("mail").asString(null),
                    account.path("more-mail")
                            .valueStream()
                            .map(a -> a.asString(""))
                            .toList(),
                    account.path("phone").asString(null),
                    null,
                    account.path("disabled").asBoolean(false),
                    account.path("locked").asBoolean(false),
                    null,
                    false,
                    null,
                    null,
                    null,
                    null,
                    Map.of()));
        }
        for (var from = 0; from < people.size(); from += BATCH) {
            sink.take(StewardApi.Batch.people(people.subList(from, Math.min(people.size(), from + BATCH))));
        }
        return null;
    }

    @Override
    public List<String> unresolved(Guard guard) {
        // Groups and accounts are plain names here, and whoever is not told of counts as protected.
        return guard.bases().stream()
                .filter(base -> !base.equals("*"))
                .map(base -> "guard.bases: only \"*\" is possible where there are no distinguished names, not \"" + base
                        + "\".")
                .toList();
    }

    @Override
    public List<Finding> examine(boolean mailNeeded) {
        var findings = new ArrayList<Finding>();
        if (!Files.isExecutable(part.command())) {
            findings.add(new Finding(
                    "error",
                    "command",
                    "The command doesn't exist, or the steward's user isn't allowed to run it.",
                    part.command().toString(),
                    "Correct directory.command in the steward's file."));
            return findings;
        }
        try {
            var accounts = ask("list", Map.of()).path("accounts").size();
            findings.add(new Finding("ok", "command", "The command answers.", accounts + " accounts", ""));
        } catch (Refused | Lost e) {
            findings.add(new Finding(
                    "error",
                    "command",
                    "The command doesn't answer as expected.",
                    e.getMessage(),
                    "Run it by hand: echo '{\"v\":1,\"operation\":\"list\"}' | " + part.command()));
        }
        return findings;
    }

    @Override
    public String current() {
        return part.command().toString();
    }

    @Override
    public Optional<Instant> certificateEnds() {
        return Optional.empty();
    }

    @Override
    public void close() {
        // Every command has ended.
    }

    private final class LocalVisit implements Visit {
        @Override
        public String server() {
            return part.command().toString();
        }

        @Override
        public Optional<Entry> find(UUID id) throws Refused, Lost {
            var found = ask("look", Map.of("id", id.toString()));
            if (!found.path("found").asBoolean(false)) {
                return Optional.empty();
            }
            var login = found.path("login").asString("");
            return Optional.of(new Entry(
                    id,
                    login,
                    login,
                    List.of(login, found.path("name").asString(login)),
                    found.path("version").asString("none"),
                    found.path("locked").asBoolean(false),
                    0,
                    null,
                    false));
        }

        @Override
        public boolean memberOf(Entry entry, List<String> groups) throws Refused, Lost {
            if (groups.isEmpty()) {
                return false;
            }
            var found = ask("look", Map.of("id", entry.id().toString())).path("groups");
            if (!found.isArray()) {
                throw new Refused(Cause.DIRECTORY_ERROR, "the command does not say which groups the account is in");
            }
            for (var group : found) {
                if (groups.contains(group.asString(""))) {
                    return true;
                }
            }
            return false;
        }

        @Override
        public void reset(Entry entry, String password, boolean clearLockout, boolean mustChange) throws Refused, Lost {
            ask(
                    "set-password",
                    Map.of(
                            "id",
                            entry.id().toString(),
                            "login",
                            entry.login(),
                            "password",
                            password,
                            "clear-lockout",
                            clearLockout,
                            "must-change",
                            mustChange));
        }

        @Override
        public void change(Entry entry, String old, String password) throws Refused, Lost {
            ask(
                    "change-password",
                    Map.of("id", entry.id().toString(), "login", entry.login(), "old", old, "password", password));
        }

        @Override
        public void unlock(Entry entry) throws Refused, Lost {
            ask("unlock", Map.of("id", entry.id().toString(), "login", entry.login()));
        }

        @Override
        public int triesLeft(Entry entry) {
            return Integer.MAX_VALUE;
        }

        @Override
        public Optional<Instant> earliestChange(Entry entry) {
            return Optional.empty();
        }

        @Override
        public Judged judge(Entry entry, String password) {
            try {
                var right = ask("verify", Map.of("id", entry.id().toString(), "password", password))
                        .path("right");
                return right.isMissingNode()
                        ? new Judged(Proof.SAYS_NOTHING, "none")
                        : new Judged(right.asBoolean() ? Proof.RIGHT : Proof.WRONG, "verify " + right.asBoolean());
            } catch (Refused | Lost e) {
                return new Judged(Proof.SAYS_NOTHING, e.getMessage());
            }
        }

        @Override
        public boolean judges() {
            return true;
        }

        @Override
        public void close() {
            // Every command has ended.
        }
    }
}
