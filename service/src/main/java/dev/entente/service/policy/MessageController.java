package dev.entente.service.policy;

import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Message;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.wire.PolicyApi;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
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

    MessageController(Configurations configurations, Drafts drafts, ServiceSettings settings) {
        this.configurations = configurations;
        this.drafts = drafts;
        this.settings = settings;
    }

    /** All messages as they are in force. */
    @GetMapping("/messages")
    public List<PolicyApi.MessageText> messages() {
        return shown(configurations.current());
    }

    /** All messages as a draft would have them. */
    @GetMapping("/drafts/{id}/messages")
    public List<PolicyApi.MessageText> messages(@PathVariable UUID id) {
        return shown(drafts.configuration(id));
    }

    private List<PolicyApi.MessageText> shown(Configuration configuration) {
        var values = new HashMap<>(EXAMPLE);
        values.put("organisation", settings.organisation());
        values.put("help-desk", settings.helpDesk());
        values.put("link", settings.publicUrl().resolve("/not-me").toString());
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
