package dev.entente.service.audit;

import java.util.Map;

/** Says an event in words. */
final class EventSentences {
    private EventSentences() {}

    static String of(String kind, Map<String, Object> data, Map<String, String> personal) {
        var said = new Said(data, personal);
        return switch (kind) {
            case "attempt.started" ->
                "Someone started "
                        + switch (said.of("action")) {
                            case "unlock" -> "an unlock";
                            case "change" -> "a password change";
                            case "details" -> "a change of their methods";
                            default -> "a " + said.of("action");
                        }
                        + "."
                        + said.when("decoy", " No code will be sent: " + said.of("decoy") + ".");
            case "challenge.sent" ->
                "A challenge was issued by " + said.of("method") + "." + said.when("decoy", " It's a decoy.");
            case "challenge.failed" -> "The person typed a wrong code; " + said.of("triesLeft") + " tries left.";
            case "challenge.answered" -> "The person typed the right code.";
            case "attempt.proved" -> "The person proved everything the policy requires.";
            case "challenge.withheld" ->
                "No more codes go to the person's mailbox this hour; the code for the whole hour still works.";
            case "guesses.noticed" ->
                "Strangers keep trying " + said.of("method") + "; the person and the administrators were told"
                        + ("null".equals(String.valueOf(data.get("limit"))) || data.get("limit") == null
                                ? "."
                                : ", and it can't be used from unknown places"
                                        + (data.get("until") == null ? "." : " until " + data.get("until") + "."));
            case "strangers.counted" ->
                said.of("says") + ", from " + said.of("networks") + " networks, most from "
                        + said.or("network", "one network") + ".";
            case "limits.lifted" -> said.of("administrator") + " lifted a person's limits: " + said.of("reason") + ".";
            case "setting.proposed" -> said.of("administrator") + " proposed a change: " + said.of("says");
            case "setting.changed" -> said.of("administrator") + " changed a setting: " + said.of("says");
            case "setting.refused" ->
                said.of("administrator") + " refused a change of " + said.or("author", "someone") + ": "
                        + said.of("says");
            case "administrator.removed" ->
                said.of("administrator") + " removed the administrator " + said.of("login") + ".";
            case "administrator.suspended" ->
                said.of("administrator") + " suspended the administrator " + said.of("login") + ".";
            case "administrator.resumed" ->
                said.of("administrator") + " resumed the administrator " + said.of("login") + ".";
            case "administrator.password-changed" -> said.of("administrator") + " changed their password.";
            case "administrator.second-factor-set" -> said.of("administrator") + " set up a second factor.";
            case "administrator.second-factor-removed" ->
                said.of("administrator") + " removed the second factor of " + said.of("login") + ".";
            case "attempt.blocked" -> "The attempt ended: no tries were left.";
            case "attempt.expired" -> "The attempt ended: it ran out of time.";
            case "password.sealed" -> "The browser sealed a new password for " + said.of("directory") + ".";
            case "password.seal-refused" -> "A sealed password was refused: " + said.of("why") + ".";
            case "order.leased" ->
                said.or("steward", "A steward") + " took the order for " + said.of("login") + " in "
                        + said.of("directory") + said.when("takeOver", ", taking over") + ".";
            case "order.begun" ->
                "The steward found version " + said.of("version") + " in " + said.of("directory") + " on "
                        + said.of("server") + " and began to write.";
            case "order.done" ->
                "unlock".equals(data.get("action"))
                        ? "The directory " + said.of("directory") + " unlocked the account."
                        : "The directory " + said.of("directory") + " accepted the new password (version "
                                + said.of("versionAfter") + ", bind " + said.of("bind") + ").";
            case "order.refused" -> "The delivery to " + said.of("directory") + " was refused: " + said.of("says");
            case "order.failed" -> "The delivery to " + said.of("directory") + " failed: " + said.of("says");
            case "order.unknown" -> "The delivery to " + said.of("directory") + " ended unknown: " + said.of("says");
            case "order.settled" ->
                "A later look settled the delivery to " + said.of("directory") + ": " + said.of("state") + ".";
            case "order.receipt-ignored" -> "A receipt arrived late or twice and changed nothing.";
            case "attempt.concluded" -> "The attempt ended: " + said.of("state") + ".";
            case "attempt.went-on" -> "After the unlock, the person went on to choose a new password.";
            case "attempt.tried-again" -> "The person tried again.";
            case "unlock.agreed" -> "The browser agreed to unlock the account in " + said.of("directory") + ".";
            case "temporary.started" ->
                said.of("administrator") + " gave " + said.of("login") + " a temporary password.";
            case "attempt.choose-again" -> "The person was asked to choose another password.";
            case "notification.queued" -> "A message was queued: " + said.of("message") + ".";
            case "notification.sent" -> "The message was sent: " + said.of("message") + ".";
            case "challenge.denied" -> "The person's device denied the request: it was " + said.of("why") + ".";
            case "credential.stated" ->
                said.of("administrator") + " stated a " + said.of("method") + " credential in " + said.of("directory")
                        + ", signed by its operator.";
            case "credential.withdrawn" ->
                said.of("administrator") + " withdrew a " + said.of("method") + " credential in " + said.of("directory")
                        + ", signed by its operator.";
            case "credential.recognised" ->
                "The steward " + said.of("steward") + " of " + said.of("directory") + " recognises the person by a "
                        + said.of("method") + " from now on.";
            case "credential.forgotten" ->
                "The person withdrew a " + said.of("method") + ", and the steward " + said.of("steward") + " of "
                        + said.of("directory") + " recognises them by it no more.";
            case "credential.refused" ->
                "A statement about a credential in " + said.of("directory") + " was refused: " + said.of("why") + ".";
            case "staff.opened" -> said.of("administrator") + " opened the request at the help desk.";
            case "staff.number-wrong" ->
                said.of("administrator") + " typed a number at the help desk for which nothing waits.";
            case "staff.confirmed-first" ->
                said.of("administrator") + " confirmed who it is; someone else has to confirm, too" + said.with("note")
                        + ".";
            case "staff.confirmed" ->
                said.of("administrator") + " confirmed who it is, by everything on the checklist" + said.with("note")
                        + ".";
            case "staff.denied" ->
                said.of("administrator") + " denied the request at the help desk" + said.with("note") + ".";
            case "notification.delivered" -> "The message reached the telephone: " + said.of("message") + ".";
            case "notification.undelivered" ->
                "The message didn't reach the telephone: " + said.of("message") + ", "
                        + said.or("why", "no reason was given") + ".";
            case "notification.failed" ->
                "The message couldn't be sent: " + said.of("message") + ", " + said.of("why") + ".";
            case "notification.retried" ->
                "Sending failed and will be retried: " + said.of("message") + ", " + said.of("why") + ".";
            case "notification.uncertain" -> "It's unclear whether the message was sent: " + said.of("message") + ".";
            case "notification.dropped" ->
                "The message was dropped: " + said.of("message") + ", " + said.of("why") + ".";
            case "draft.submitted" -> said.of("administrator") + " submitted the draft " + said.of("draft") + ".";
            case "draft.approved" -> said.of("administrator") + " approved the draft " + said.of("draft") + ".";
            case "approval.set" -> said.of("administrator") + " set the approval rule to " + said.of("what") + ".";
            case "publication.planned" ->
                said.of("administrator") + " planned a publication for " + said.of("at") + ".";
            case "publication.ends" -> "Revision " + said.of("revision") + " will end at " + said.of("at") + ".";
            case "publication.cancelled" -> said.of("administrator") + " cancelled a planned publication.";
            case "publication.not-done" -> "A planned publication wasn't carried out: " + said.of("why") + ".";
            case "administrator.made" -> said.of("administrator") + " made " + said.of("login") + " an administrator.";
            case "method.enrolled" ->
                said.or("administrator", "The person") + " enrolled a method: " + said.of("method") + ".";
            case "method.removed" ->
                said.or("administrator", "The person") + " removed a method: " + said.of("method") + ".";
            case "staff.answers-wrong" ->
                said.or("administrator", "The help desk") + " heard wrong answers to the caller's questions.";
            case "device.forgotten" -> "A device that the person used before doesn't count any more.";
            case "answers.ended" -> "Provisional answers of a person don't count any more.";
            case "terms.accepted" -> "The person accepted the terms " + said.of("terms") + ".";
            case "alarm.raised" -> "The person raised an alarm: this wasn't me.";
            case "configuration.published" ->
                said.of("administrator") + " published revision " + said.of("revision") + ".";
            case "directory.added" -> said.of("administrator") + " added the directory " + said.of("directory") + ".";
            case "directory.changed" ->
                said.of("administrator") + " changed the directory " + said.of("directory") + ".";
            case "stop.started" ->
                said.of("administrator") + " stopped " + said.of("what") + ": " + said.of("reason") + ".";
            case "stop.ended" -> said.or("administrator", "The service") + " resumed " + said.of("what") + ".";
            case "directory.suspended" ->
                said.of("administrator") + " suspended the directory " + said.of("directory") + ".";
            case "directory.resumed" ->
                said.of("administrator") + " resumed the directory " + said.of("directory") + ".";
            case "directory.removed" ->
                said.of("administrator") + " removed the directory " + said.of("directory") + ".";
            case "directory.server-moved" ->
                "Steward " + said.of("steward") + " of " + said.of("directory") + " moved from " + said.of("from")
                        + " to " + said.of("to") + ": " + said.of("why") + ".";
            case "steward.replaced" ->
                "The steward " + said.of("steward") + " joined again; its earlier key ends with the next roster.";
            case "steward.retired" ->
                said.of("administrator") + " retired the steward " + said.of("steward") + " of " + said.of("directory")
                        + ".";
            case "passkey.cloned" ->
                "A passkey’s counter went back, so someone may hold a copy of it. The answer didn’t count.";
            case "steward.key-copied" ->
                "Two processes used the key of the steward " + said.of("steward") + ", so it gets no more work.";
            case "steward.receipt-refused" ->
                "A receipt of steward " + said.of("steward") + " was refused: " + said.of("why") + ".";
            case "roster.refused" -> "A roster of " + said.of("directory") + " was refused: " + said.of("why") + ".";
            case "preflight.changed" ->
                "Preflight results for " + said.of("directory") + " have changed: " + said.of("result") + ".";
            case "sync.held" ->
                "A sync of " + said.of("directory") + " missed " + said.of("missed") + " of " + said.of("all")
                        + " accounts and is waiting for an administrator.";
            case "sync.loss-accepted" ->
                said.of("administrator") + " accepted that the accounts missing in " + said.of("directory")
                        + " are gone.";
            case "sync.starts-over" -> "The sync of " + said.of("directory") + " starts over: " + said.of("why") + ".";
            case "correlation.in-doubt" ->
                "It's unclear who owns the account " + said.of("login") + " in " + said.of("directory") + ": "
                        + said.of("kind") + ".";
            case "correlation.settled" ->
                said.of("administrator") + " settled who owns an account: " + said.of("decision") + ".";
            case "password.set-elsewhere" ->
                "The password of " + said.of("login") + " in " + said.of("directory") + " was changed elsewhere.";
            case "channel.set" -> said.of("administrator") + " set the channel " + said.of("channel") + ".";
            case "channel.tested" ->
                said.of("administrator") + " tested the channel " + said.of("channel")
                        + said.when("why", " and it failed: " + said.of("why")) + ".";
            case "channel.works" -> "The channel " + said.of("channel") + " works.";
            case "channel.broken" -> "The channel " + said.of("channel") + " isn't working: " + said.of("why") + ".";
            case "switch.turned" ->
                said.of("administrator") + " turned " + said.of("switch")
                        + (Boolean.TRUE.equals(data.get("on")) ? " on." : " off.");
            case "steward.admitted" ->
                said.of("administrator") + " made a join code for the steward " + said.of("steward") + ".";
            case "steward.joined" -> "The steward " + said.of("steward") + " joined for " + said.of("directory") + ".";
            case "steward.join-refused" -> "A join code was refused: " + said.of("why") + ".";
            case "roster.signed" ->
                said.of("administrator") + " signed roster " + said.of("version") + " of " + said.of("directory") + ".";
            case "preflight.ended" -> "Preflight of " + said.of("directory") + " ended: " + said.of("result") + ".";
            case "sync.ended" -> "Sync of " + said.of("directory") + " ended: " + said.of("result") + ".";
            case "administrator.signed-in" -> said.of("administrator") + " signed in.";
            case "administrator.sign-in-failed" ->
                "A sign-in as " + said.or("login", "an unknown name") + " failed"
                        + said.when("what", ": wrong " + said.of("what")) + ".";
            case "administrator.added" -> said.of("administrator") + " became the first administrator.";
            case "token.made" -> said.of("administrator") + " made a token for the command line.";
            default -> kind;
        };
    }

    private record Said(Map<String, Object> data, Map<String, String> personal) {
        String of(String name) {
            return or(name, "?");
        }

        String or(String name, String otherwise) {
            var value = data.getOrDefault(name, personal.get(name));
            return value == null ? otherwise : value.toString();
        }

        /** In brackets, where it was said. */
        String with(String name) {
            var value = or(name, "");
            return value.isEmpty() ? "" : " (" + value + ")";
        }

        String when(String name, String text) {
            return data.get(name) == null || Boolean.FALSE.equals(data.get(name)) ? "" : text;
        }
    }
}
