package dev.entente.wire;

import dev.entente.core.policy.Action;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** Policies and scopes in force, messages, stops, and explaining, over the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class PolicyApi {
    private PolicyApi() {}

    /**
     * Why a person can or cannot do something now.
     *
     * @param waysIn what somebody else would have to hold to do it in the person's place, a sentence for each smallest set
     */
    public record Explanation(
            UUID person,
            String name,
            @OneOf(Action.class) String action,
            int revision,
            boolean possible,
            @OrNull String policy,
            List<Considered> considered,
            @OrNull Required required,
            List<MethodStanding> methods,
            List<Fact> facts,
            List<Obstacle> obstacles,
            List<String> notes,
            List<Situation> situations,
            List<String> waysIn,
            String text) {}

    /**
     * The same person in one situation, where it makes a difference.
     *
     * @param words such as "from inside Fleet networks, on a known device"
     * @param proof what has to be proved, in words; null where nothing is possible
     */
    public record Situation(
            String words, boolean possible, @OrNull String proof, List<String> obstacles) {}

    /**
     * What has to be proved.
     *
     * @param words to follow "prove"
     * @param because each condition that asks for more
     */
    public record Required(int methods, int factors, String words, String source, List<String> because) {}

    /**
     * How one method stands for the person.
     *
     * @param words that it can be used, or what hinders it
     */
    public record MethodStanding(@MethodName String method, boolean enrolled, boolean usable, String words) {}

    /** A policy that was looked at. */
    public record Considered(String policy, boolean covers, String because) {}

    /** A value and where it was said. */
    public record Fact(
            String name, @OrNull String value, @OrNull String source) {}

    /** What stands in the way, and what to do. */
    public record Obstacle(String code, String cause, String whatToDo) {}

    /**
     * A message to people.
     *
     * @param source the file that says it, or {@code built in}
     * @param placeholders what can stand in braces, beside {@code attribute.NAME}
     * @param needed what has to stand in every text
     * @param subjects by language
     * @param texts by language
     * @param examples as somebody made up would read it, by language: the subject, an empty line, the text
     */
    public record MessageText(
            String name,
            String source,
            List<String> placeholders,
            List<String> needed,
            Map<String, String> subjects,
            Map<String, String> texts,
            Map<String, String> examples) {}

    /**
     * A message as somebody would read it.
     *
     * @param html the same as a page, for readers that show one
     */
    public record MessagePreview(String subject, String text, String html, String language) {}

    /**
     * A message to be sent as a test.
     *
     * @param to an e-mail address
     * @param person whose name, language and attributes are filled in; null for somebody made up
     * @param language instead of the person's; null for theirs
     * @param draft whose texts they are; null for those in force
     */
    public record MessageTest(
            String to,
            @OrNull UUID person,
            @OrNull String language,
            @OrNull UUID draft) {
        /** Shows no address. */
        @Override
        public String toString() {
            return "test of a message";
        }
    }

    /**
     * A published scope.
     *
     * @param words to follow "people"
     * @param policies that it is the scope of
     */
    public record Scope(String name, String title, String words, int people, List<String> policies) {}

    /**
     * Somebody came to a scope, or left it.
     *
     * @param at when that was noticed
     * @param person null where it tells of many at once
     * @param name null where it tells of many at once
     * @param more how many people it tells of besides
     * @param why a sentence without full stop
     * @param revision the configuration that was in force then
     */
    public record ScopeChange(
            long id,
            Instant at,
            boolean came,
            @OrNull UUID person,
            @OrNull String name,
            int more,
            String why,
            int revision) {}

    /** How many people are in both of two scopes, and in one of them alone. */
    public record Overlap(int both, int onlyFirst, int onlySecond) {}

    /**
     * A scope that is being written.
     *
     * @param files of the draft it belongs to
     */
    public record ScopeText(String name, String text, Map<String, String> files) {}

    /**
     * Who would be in it.
     *
     * @param words null if there are problems
     * @param sample the first of them
     */
    public record ScopePreview(
            @OrNull String words, int people, List<PeopleApi.PersonRow> sample, List<DraftApi.Problem> problems) {}

    /**
     * A published policy to read.
     *
     * @param methods every method there is, and how many of the people it covers have it
     */
    public record Policy(
            String name,
            String title,
            String scope,
            List<Sentence> sentences,
            List<Fact> facts,
            int people,
            List<MethodHere> methods) {}

    /**
     * A method as a policy could ask for it.
     *
     * @param factors what it counts as; a passkey as two
     * @param alone whether it may suffice by itself
     * @param mayComeFirst whether somebody can be asked for it who has proved nothing yet
     * @param people how many of those whom the policy covers have it
     */
    public record MethodHere(
            @MethodName String method, List<String> factors, boolean alone, boolean mayComeFirst, int people) {}

    /**
     * The weakest ways through a policy.
     *
     * @param notes what is not known, and what holds for every policy
     */
    public record WaysIn(@OneOf(Action.class) String action, List<WayIn> ways, List<String> notes) {}

    /**
     * A smallest set of things that somebody who is not the person would have to hold.
     *
     * @param words the whole of it as a sentence
     * @param holds each thing in words
     * @param adds methods that would have to be set up first
     * @param situations where and when it works; empty if that makes no difference
     * @param people how many it concerns
     * @param privileged how many of them have privileged accounts
     */
    public record WayIn(
            String words, List<String> holds, List<String> adds, List<String> situations, int people, int privileged) {}

    /**
     * A sentence of a policy.
     *
     * @param facts names of the facts that it tells
     */
    public record Sentence(String text, List<String> facts) {}

    /**
     * Something to stop at once.
     *
     * @param what {@code everything}, or a kind and a name: {@code action:reset}, {@code method:email-code},
     *     {@code directory:shore}, {@code policy:crew}
     * @param reason one line, at most 200 characters
     * @param until when it ends by itself; null for not by itself
     */
    public record NewStop(
            String what, String reason, @OrNull Instant until) {}

    /**
     * Something that is or was stopped.
     *
     * @param ended null while it is in force
     * @param endedBy null if it ended by itself
     */
    public record Stop(
            UUID id,
            String what,
            String reason,
            Instant since,
            @OrNull String by,
            @OrNull Instant until,
            @OrNull Instant ended,
            @OrNull String endedBy) {}

    /**
     * The stop switch.
     *
     * @param stops those in force first, then the latest that ended
     * @param possible all that can be stopped now
     */
    public record Stops(List<Stop> stops, List<String> possible) {}
}
