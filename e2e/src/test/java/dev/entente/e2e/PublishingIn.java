package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.wire.DraftApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.TreeMap;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.io.TempDir;

/** Tests that publish something of their own, and leave behind what was in force before. */
abstract class PublishingIn<W extends Installation> {
    static final Duration SOON = Duration.ofSeconds(30);
    final W world;
    final ConsoleApi api;
    int before;

    @TempDir
    Path folder;

    PublishingIn(W world) {
        this.world = world;
        this.api = ConsoleApi.signedIn(world);
    }

    @BeforeEach
    void remember() throws IOException {
        before = revision();
        var files = ApiPerson.JSON
                .readValue(api.get("/revisions/" + before).body(), DraftApi.Revision.class)
                .files();
        for (var file : files.entrySet()) {
            write(file.getKey(), file.getValue());
        }
    }

    @AfterEach
    void back() {
        for (var draft : drafts()) {
            api.delete("/drafts/" + draft.id());
        }
        if (revision() != before) {
            agreeing("/revisions/" + before + "/restoration");
        }
    }

    List<DraftApi.Draft> drafts() {
        return List.of(ApiPerson.JSON.readValue(api.get("/drafts").body(), DraftApi.Draft[].class));
    }

    int revision() {
        return ApiPerson.JSON.readValue(api.get("/revisions").body(), DraftApi.Revision[].class)[0].number();
    }

    /** Publishes with the number of people that the refusal names. */
    void agreeing(String path) {
        var answer = api.post(
                path, ApiPerson.JSON.writeValueAsString(new DraftApi.Publication("test", null, null, null, null)));
        if (answer.statusCode() == 409) {
            var people = ApiPerson.JSON.readTree(answer.body()).path("losesWay").asInt();
            answer = api.post(
                    path,
                    ApiPerson.JSON.writeValueAsString(new DraftApi.Publication("test", null, people, null, null)));
        }
        if (!answer.body().contains("holds what is in force already")) {
            assertThat(answer.statusCode()).as(answer.body()).isLessThan(300);
        }
    }

    void publish() throws IOException {
        var draft = ApiPerson.JSON.readValue(
                api.post("/drafts", ApiPerson.JSON.writeValueAsString(new DraftApi.NewDraft("test")))
                        .body(),
                DraftApi.Draft.class);
        var files = new TreeMap<String, String>();
        try (var found = Files.walk(folder)) {
            for (var file : found.filter(Files::isRegularFile).toList()) {
                files.put(folder.relativize(file).toString(), Files.readString(file));
            }
        }
        var loaded = api.put("/drafts/" + draft.id() + "/files", new DraftApi.DraftFiles(files));
        assertThat(ApiPerson.JSON.readValue(loaded.body(), DraftApi.Draft.class).problems())
                .isEmpty();
        agreeing("/drafts/" + draft.id() + "/publish");
    }

    /** A policy for these people alone, before all others. */
    void pilot(String policy, Crew... people) throws IOException {
        write(
                "scopes/pilot.yaml",
                "scope: pilot\nany:\n  - people: ["
                        + String.join(
                                ", ", List.of(people).stream().map(Crew::shore).toList()) + "]\n");
        write(
                "policies/pilot.yaml",
                "policy: pilot\nwho: scope pilot\nallow: [reset, unlock, change, details]\n"
                        + "deliver: { to: [shore, fleet] }\n" + policy);
        write("order.yaml", "order: [pilot, deck-crew]\n");
        publish();
    }

    void write(String file, String text) throws IOException {
        Files.createDirectories(folder.resolve(file).getParent());
        Files.writeString(folder.resolve(file), text);
    }

    /** Why somebody can or cannot reset a password now. */
    String explained(Crew crew) {
        return explained(crew.shore());
    }

    String explained(String login) {
        return ApiPerson.JSON
                .readTree(api.get("/explain?person=" + login).body())
                .path("text")
                .asString();
    }

    String name(Crew crew) {
        return ApiPerson.JSON
                .readTree(api.get("/explain?person=" + crew.shore()).body())
                .path("name")
                .asString();
    }
}
