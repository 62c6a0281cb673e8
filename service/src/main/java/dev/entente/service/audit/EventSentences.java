package dev.entente.service.audit;

import java.util.Map;

/** Says an event in words. */
final class EventSentences {
    private EventSentences() {}

    static String of(String kind, Map<String, Object> data, Map<String, String> personal) {
        var said = new Said(data, personal);
        return switch (kind) {
            case "attempt.started" ->
                "Somebody said who they are and asked for a " + said.of("action") + "."
                        + said.when("decoy", " No code will reach anybody: " + said.of("decoy") + ".");
            case "challenge.sent" ->
                "A challenge by " + said.of("method") + " was made." + said.when("decoy", " It is a decoy.");
            case "challenge.failed" -> "A wrong code was typed; " + said.of("triesLeft") + " tries left.";
            case "challenge.answered" -> "The code was right.";
            case "attempt.proved" -> "Everything that the policy requires is proved.";
            case "challenge.withheld" ->
                "No more codes were sent to the person's mailbox this hour; the one for the whole hour is still good.";
            case "guesses.noticed" ->
                "Strangers keep trying by " + said.of("method") + "; the person and the administrators were told"
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
                said.of("administrator") + " let the administrator " + said.of("login") + " in again.";
            case "administrator.password-changed" -> said.of("administrator") + " changed their password.";
            case "administrator.second-factor-set" -> said.of("administrator") + " set up a second factor.";
            case "administrator.second-factor-removed" ->
                said.of("administrator") + " removed the second factor of " + said.of("login") + ".";
            case "attempt.blocked" -> "The attempt ended: its tries are used up.";
            case "attempt.expired" -> "The attempt ended: its time was up.";
            case "password.sealed" -> "The browser sealed a new password for " + said.of("directory") + ".";
            case "password.seal-refused" -> "A sealed password was refused: " + said.of("why") + ".";
            case "order.leased" ->
                said.or("steward", "A steward") + " took the order for " + said.of("login") + " in "
                        + said.of("directory") + said.when("takeOver", ", taking over") + ".";
            case "order.begun" ->
                "In " + said.of("directory") + " it noted version " + said.of("version") + " on " + said.of("server")
                        + " and began to write.";
            case "order.done" ->
                "unlock".equals(data.get("action"))
                        ? "The directory " + said.of("directory") + " unlocked the account."
                        : "The directory " + said.of("directory") + " holds the new password: version "
                                + said.of("versionAfter") + ", bind " + said.of("bind") + ".";
            case "order.refused" -> "Refused in " + said.of("directory") + ": " + said.of("says");
            case "order.failed" -> "Failed in " + said.of("directory") + ": " + said.of("says");
            case "order.unknown" -> "Unknown in " + said.of("directory") + ": " + said.of("says");
            case "order.settled" ->
                "A later look settled it in " + said.of("directory") + ": " + said.of("state") + ".";
            case "order.receipt-ignored" -> "A receipt came twice or late and changed nothing.";
            case "attempt.concluded" -> "The attempt ended: " + said.of("state") + ".";
            case "attempt.went-on" -> "After the unlock the person went on to a new password.";
            case "attempt.tried-again" -> "The person tried again what had failed.";
            case "unlock.agreed" -> "The browser agreed to unlock in " + said.of("directory") + ".";
            case "temporary.started" ->
                said.of("administrator") + " gave " + said.of("login") + " a temporary password.";
            case "attempt.choose-again" -> "The person is asked for another password.";
            case "notification.queued" -> "A message is queued: " + said.of("message") + ".";
            case "notification.sent" -> "The message was sent: " + said.of("message") + ".";
            case "notification.failed" ->
                "The message could not be sent: " + said.of("message") + ", " + said.of("why") + ".";
            case "notification.retried" ->
                "Sending failed and will be tried again: " + said.of("message") + ", " + said.of("why") + ".";
            case "notification.uncertain" ->
                "It is not certain whether the message was sent: " + said.of("message") + ".";
            case "notification.dropped" -> "Nothing was sent: " + said.of("message") + ", " + said.of("why") + ".";
            case "draft.submitted" -> said.of("administrator") + " submitted the draft " + said.of("draft") + ".";
            case "draft.approved" -> said.of("administrator") + " approved the draft " + said.of("draft") + ".";
            case "approval.set" ->
                said.of("administrator") + " asks for a second person's approval of " + said.of("what") + ".";
            case "publication.planned" ->
                said.of("administrator") + " planned a publication for " + said.of("at") + ".";
            case "publication.ends" -> "Revision " + said.of("revision") + " ends by itself at " + said.of("at") + ".";
            case "publication.cancelled" -> said.of("administrator") + " cancelled what was planned.";
            case "publication.not-done" -> "What was planned was not done: " + said.of("why") + ".";
            case "administrator.made" -> said.of("administrator") + " made " + said.of("login") + " an administrator.";
            case "method.enrolled" -> "The person set up a way to be recognised: " + said.of("method") + ".";
            case "method.removed" ->
                said.or("administrator", "The person") + " removed a way to be recognised: " + said.of("method") + ".";
            case "terms.accepted" -> "The person accepted the terms " + said.of("terms") + ".";
            case "alarm.raised" -> "The person said: this was not me.";
            case "configuration.published" ->
                "Revision " + said.of("revision") + " was published by " + said.of("administrator") + ".";
            case "directory.added" ->
                "Directory " + said.of("directory") + " was added by " + said.of("administrator") + ".";
            case "directory.changed" ->
                "Directory " + said.of("directory") + " was changed by " + said.of("administrator") + ".";
            case "stop.started" ->
                said.of("administrator") + " stopped " + said.of("what") + ": " + said.of("reason") + ".";
            case "stop.ended" -> said.of("what") + " goes on again.";
            case "directory.suspended" ->
                said.of("administrator") + " suspended " + said.of("directory") + ": nothing is delivered.";
            case "directory.resumed" -> said.of("administrator") + " resumed " + said.of("directory") + ".";
            case "directory.removed" -> said.of("administrator") + " removed directory " + said.of("directory") + ".";
            case "directory.server-moved" ->
                "Steward " + said.of("steward") + " of " + said.of("directory") + " moved from " + said.of("from")
                        + " to " + said.of("to") + ": " + said.of("why") + ".";
            case "steward.replaced" ->
                "Steward " + said.of("steward") + " joins anew; its key before ends with the next roster.";
            case "steward.retired" ->
                "Steward " + said.of("steward") + " of " + said.of("directory") + " was retired by "
                        + said.of("administrator") + ".";
            case "steward.key-copied" ->
                "Two processes used the key of steward " + said.of("steward") + "; it gets no more work.";
            case "steward.receipt-refused" ->
                "A receipt of steward " + said.of("steward") + " was refused: " + said.of("why") + ".";
            case "roster.refused" -> "A roster of " + said.of("directory") + " was refused: " + said.of("why") + ".";
            case "preflight.changed" ->
                "Preflight of " + said.of("directory") + " found something else than before: " + said.of("result")
                        + ".";
            case "sync.held" ->
                "A sync of " + said.of("directory") + " missed " + said.of("missed") + " of " + said.of("all")
                        + " accounts and waits for an administrator.";
            case "sync.loss-accepted" ->
                said.of("administrator") + " agreed that the accounts missing in " + said.of("directory")
                        + " are gone.";
            case "sync.starts-over" ->
                "Everything in " + said.of("directory") + " is read again: " + said.of("why") + ".";
            case "correlation.in-doubt" ->
                "Whose the account " + said.of("login") + " in " + said.of("directory") + " is, is in doubt: "
                        + said.of("kind") + ".";
            case "correlation.settled" ->
                said.of("administrator") + " settled whose an account is: " + said.of("decision") + ".";
            case "password.set-elsewhere" ->
                "The password of " + said.of("login") + " in " + said.of("directory") + " was set elsewhere.";
            case "channel.set" -> said.of("administrator") + " set the channel " + said.of("channel") + ".";
            case "channel.tested" ->
                said.of("administrator") + " tried the channel " + said.of("channel")
                        + said.when("why", " and it failed: " + said.of("why")) + ".";
            case "channel.works" -> "The channel " + said.of("channel") + " works.";
            case "channel.broken" -> "The channel " + said.of("channel") + " does not work: " + said.of("why") + ".";
            case "switch.turned" ->
                said.of("administrator") + " turned " + said.of("switch")
                        + (Boolean.TRUE.equals(data.get("on")) ? " on." : " off.");
            case "steward.admitted" ->
                "A join code for steward " + said.of("steward") + " was made by " + said.of("administrator") + ".";
            case "steward.joined" ->
                "Steward " + said.of("steward") + " handed in its keys for " + said.of("directory") + ".";
            case "steward.join-refused" -> "A join code was refused: " + said.of("why") + ".";
            case "roster.signed" ->
                "Roster " + said.of("version") + " of " + said.of("directory") + " was signed by "
                        + said.of("administrator") + ".";
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

        String when(String name, String text) {
            return data.get(name) == null || Boolean.FALSE.equals(data.get(name)) ? "" : text;
        }
    }
}
