package dev.entente.e2e;

import java.util.ArrayList;
import java.util.List;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** A member of the deck crew whom no other test of the same world uses. */
record Crew(String shore, String fleet, String address, String number) {
    private static final List<Crew> ALL = all();

    /** All of them, for a world of their own. */
    static Queue<Crew> rest() {
        return new ConcurrentLinkedQueue<>(ALL);
    }

    /** As people.py makes it, in E.164. */
    String phone() {
        return "+447700900%03d".formatted(Integer.parseInt(number) % 1000);
    }

    String login(String directory) {
        return directory.equals("shore") ? shore : fleet;
    }

    private static List<Crew> all() {
        var printed = World.run(
                Installation.MORE_CREW,
                "/usr/bin/python3",
                World.ROOT.resolve("bin/lib/people.py").toString());
        var crew = new ArrayList<Crew>();
        for (JsonNode person :
                JsonMapper.shared().readTree(printed.expect(0).out()).path("people")) {
            // The first ones are the awkward cases, which tests name themselves.
            if (person.path("ou").asString().equals("Deck")
                    && person.path("number").asString().compareTo("20015") > 0) {
                crew.add(new Crew(
                        person.path("login").asString(),
                        person.path("fleet").asString(),
                        person.path("mail").asString(),
                        person.path("number").asString()));
            }
        }
        return crew;
    }
}
