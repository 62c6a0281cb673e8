package dev.entente.cli;

import dev.entente.wire.HelpDeskApi;
import java.util.ArrayList;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Confirming who a caller is. */
@Command(
        name = "helpdesk",
        addMethodSubcommands = false,
        description = "Confirm who a caller is, so that they can go on by themselves. You never see or set a password.")
final class HelpDeskCommands {
    @ParentCommand
    private Entente entente;

    private HelpDeskApi.HelpRequest find(String login, String number) {
        return entente.api()
                .post("/help-desk/requests/find", new HelpDeskApi.Caller(login, number), HelpDeskApi.HelpRequest.class);
    }

    @Command(name = "open", description = "Show what a caller asks for, and what to do before you confirm.")
    int open(
            @Parameters(paramLabel = "LOGIN", description = "the name the caller signs in with") String login,
            @Parameters(paramLabel = "NUMBER", description = "six digits on the caller's screen") String number) {
        var request = find(login, number);
        entente.printer().one(request, () -> {
            System.out.println(request.name() + " (" + request.login()
                    + (request.department() == null ? "" : ", " + request.department()) + ") wants to "
                    + request.action() + ", from " + request.network() + ".");
            System.out.println("Reference " + request.reference() + ", asked at " + Printer.time(request.askedAt())
                    + ", can be confirmed until " + Printer.time(request.expiresAt()) + ".");
            if (request.privileged()) {
                System.out.println("Privileged: "
                        + (request.confirmedBy() == null
                                ? "two people at the help desk have to confirm."
                                : request.confirmedBy() + " confirmed already; you are the second."));
            }
            System.out.println("Before you confirm:");
            for (var i = 0; i < request.checklist().size(); i++) {
                System.out.println("  " + (i + 1) + ". " + request.checklist().get(i));
            }
            if (!request.spoken().isEmpty()) {
                System.out.println("Ask the caller, and type what you hear:");
                for (var i = 0; i < request.spoken().size(); i++) {
                    var texts = request.spoken().get(i);
                    System.out.println("  " + (i + 1) + ". "
                            + texts.getOrDefault("en", texts.values().iterator().next()));
                }
            }
            System.out.println("Then: entente helpdesk confirm " + login + " " + number + " --checked "
                    + numbers(request.checklist().size())
                    + " --heard ANSWER".repeat(request.spoken().size()));
        });
        return Entente.DONE;
    }

    private static String numbers(int many) {
        var numbers = new ArrayList<String>();
        for (var i = 1; i <= many; i++) {
            numbers.add(String.valueOf(i));
        }
        return String.join(",", numbers);
    }

    @Command(name = "confirm", description = "Confirm that the caller is who they say, after the whole checklist.")
    int confirm(
            @Parameters(paramLabel = "LOGIN") String login,
            @Parameters(paramLabel = "NUMBER") String number,
            @Option(
                            names = "--checked",
                            split = ",",
                            required = true,
                            paramLabel = "N",
                            description = "what you did, by its numbers on the checklist, such as 1,2")
                    List<Integer> checked,
            @Option(
                            names = "--heard",
                            paramLabel = "ANSWER",
                            description = "what the caller answered, once for each question, in their order")
                    List<String> heard,
            @Option(names = "--note", description = "for the record") String note) {
        var request = find(login, number);
        var done = checked.stream()
                .filter(n -> n >= 1 && n <= request.checklist().size())
                .map(n -> request.checklist().get(n - 1))
                .distinct()
                .toList();
        var confirmed = entente.api()
                .post(
                        Api.at("/help-desk/requests/{}/confirmation", request.id()),
                        new HelpDeskApi.StaffConfirmation(done, heard, note),
                        HelpDeskApi.Confirmed.class);
        System.err.println(
                confirmed.complete()
                        ? request.name() + " is confirmed, and goes on in their own browser."
                        : request.name() + " is privileged: someone else at the help desk has to confirm, too.");
        return Entente.DONE;
    }

    @Command(
            name = "deny",
            description = "Deny it: the caller isn't who they say. The person and administrators are told.")
    int deny(
            @Parameters(paramLabel = "LOGIN") String login,
            @Parameters(paramLabel = "NUMBER") String number,
            @Option(names = "--note", description = "for the record") String note) {
        var request = find(login, number);
        entente.api().post(Api.at("/help-desk/requests/{}/denial", request.id()), new HelpDeskApi.Denial(note));
        System.err.println("Denied. " + request.name() + " and the administrators are told.");
        return Entente.DONE;
    }
}
