package dev.entente.service.policy;

import dev.entente.core.notice.Concern;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Languages;
import dev.entente.core.policy.Message;
import dev.entente.core.policy.MessageText;
import dev.entente.service.notification.MailChannel;
import dev.entente.service.people.People;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.MailApi;
import dev.entente.wire.PolicyApi;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.UUID;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The texts of messages, as they are and as somebody would read them. */
@RestController
@RequestMapping("/api/v1")
@Transactional(readOnly = true)
class MessageController {
    private static final Map<String, String> EXAMPLE = Map.of(
            "name",
            "Astrid Example",
            "code",
            "0000 0000",
            "valid-for",
            "10 min",
            "where",
            "shore, fleet",
            "reference",
            "R 0000 0000");

    private final Configurations configurations;
    private final Drafts drafts;
    private final ServiceSettings settings;

    private final People people;
    private final MailChannel mail;

    MessageController(
            Configurations configurations, Drafts drafts, ServiceSettings settings, People people, MailChannel mail) {
        this.configurations = configurations;
        this.drafts = drafts;
        this.settings = settings;
        this.people = people;
        this.mail = mail;
    }

    /** All messages as they are in force. */
    @Fails({"draft-invalid", "draft-not-found"})
    @GetMapping("/messages")
    public List<PolicyApi.MessageText> messages() {
        return shown(configurations.current());
    }

    /** All messages as a draft would have them. */
    @Fails({"draft-invalid", "draft-not-found"})
    @GetMapping("/drafts/{id}/messages")
    public List<PolicyApi.MessageText> messages(@PathVariable UUID id) {
        return shown(drafts.configuration(id));
    }

    /**
     * One message as somebody would read it.
     *
     * @param person whose name, language and attributes are filled in; somebody made up, if none is named
     * @param language instead of the person's
     * @param draft whose texts they are; as they are in force, if none is named
     */
    @Fails({"draft-invalid", "draft-not-found", "message-not-found", "person-not-found"})
    @GetMapping("/messages/{name}/preview")
    public PolicyApi.MessagePreview preview(
            @PathVariable String name,
            @RequestParam(required = false) UUID person,
            @RequestParam(required = false) String language,
            @RequestParam(required = false) UUID draft) {
        var filled = filled(name, person, language, draft);
        return new PolicyApi.MessagePreview(filled.subject(), filled.text(), filled.html(), filled.language());
    }

    /** Sends one message to an address as a test; codes and links in it are of no use. */
    @Fails({"draft-invalid", "draft-not-found", "mail-test-address", "message-not-found", "person-not-found"})
    @Unconfirmed
    @PostMapping("/messages/{name}/test")
    @Transactional(propagation = Propagation.NOT_SUPPORTED)
    public MailApi.MailTried test(
            @PathVariable String name,
            @RequestBody PolicyApi.MessageTest test,
            @AuthenticationPrincipal String administrator) {
        return mail.test(test.to(), filled(name, test.person(), test.language(), test.draft()), administrator);
    }

    private MessageText.Filled filled(String name, UUID person, String language, UUID draft) {
        var message = Message.labelled(name)
                .orElseThrow(() -> Problem.of("message-not-found/name").with("name", name));
        var configuration = draft == null ? configurations.current() : drafts.configuration(draft);
        var values = values();
        var attributes = Map.of("department", Set.of("Deck"));
        String wanted = language;
        if (person != null) {
            var who = people.find(person).orElseThrow(() -> Problem.of("person-not-found"));
            values.put("name", who.name());
            attributes = who.attributes();
            wanted = language != null
                    ? language
                    : attributes.getOrDefault("preferredlanguage", Set.of()).stream()
                            .map(Languages::wish)
                            .filter(Objects::nonNull)
                            .findFirst()
                            .orElse(null);
        }
        return configuration.text(message).fill(wanted, values, attributes);
    }

    private Map<String, String> values() {
        var values = new HashMap<>(EXAMPLE);
        values.put("organisation", settings.organisation());
        values.put("help-desk", settings.helpDesk());
        values.put("link", settings.publicUrl().resolve("/not-me").toString());
        values.put("about", Concern.STEWARDS.title());
        values.put("what", "No steward of fleet is connected; nothing can be delivered.");
        values.put("count", "2 notices");
        values.put(
                "list",
                "- 2026-11-02 06:14 UTC: ingeborg published revision 7.\n"
                        + "- 2026-11-02 09:30 UTC: ingeborg started the stop policy:bridge.");
        return values;
    }

    private List<PolicyApi.MessageText> shown(Configuration configuration) {
        var values = values();
        return Arrays.stream(Message.values())
                .map(message -> {
                    var text = configuration.text(message);
                    return new PolicyApi.MessageText(
                            message.label(),
                            configuration.messages().containsKey(message)
                                    ? "messages/" + message.label() + ".yaml"
                                    : "built in",
                            message.placeholders(),
                            message.needed().stream().sorted().toList(),
                            text.subjects(),
                            text.texts(),
                            text.texts().keySet().stream().collect(Collectors.toMap(Function.identity(), language -> {
                                var filled = text.fill(language, values, Map.of("department", Set.of("Deck")));
                                return filled.subject() + "\n\n" + filled.text();
                            })));
                })
                .toList();
    }
}
