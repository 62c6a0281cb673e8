package dev.entente.core.policy;

import dev.entente.core.password.PasswordRules;
import dev.entente.core.scope.Scope;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.questions.QuestionSet;
import java.util.List;
import java.util.Map;

/**
 * One immutable state of everything that is published.
 *
 * @param revision its number, 0 for the empty state before the first publication
 * @param scopes by name
 * @param policies in order: the first whose scope covers a person decides
 * @param passwords rule sets by name
 * @param networks by name
 * @param terms by name
 * @param methods settings of every available method
 * @param messages texts of messages that are not as they come
 * @param questions security questions and what answers have to be
 */
public record Configuration(
        int revision,
        Map<String, Scope> scopes,
        List<Policy> policies,
        Map<String, PasswordRules> passwords,
        Map<String, Network> networks,
        Map<String, Terms> terms,
        Map<Method, MethodSettings> methods,
        Map<Message, MessageText> messages,
        QuestionSet questions) {

    public Configuration {
        scopes = Map.copyOf(scopes);
        policies = List.copyOf(policies);
        passwords = Map.copyOf(passwords);
        networks = Map.copyOf(networks);
        terms = Map.copyOf(terms);
        methods = Map.copyOf(methods);
        messages = Map.copyOf(messages);
    }

    /** Before anything is published: nobody may do anything. */
    public static Configuration empty() {
        return ConfigurationReader.read(Map.of(), null).configuration().orElseThrow();
    }

    /** The text of a message: as it was said here, else as it comes. */
    public MessageText text(Message message) {
        return messages.getOrDefault(message, message.usual());
    }

    /** Whether several people use one device where this address is. */
    public boolean shared(String address) {
        return networks.values().stream().anyMatch(n -> n.shared() && n.holds(address));
    }

    /** The same with what its scopes name and is not there marked as what cannot be known. */
    public Configuration within(Surroundings surroundings) {
        return new Configuration(
                revision,
                surroundings.marked(scopes),
                policies,
                passwords,
                networks,
                terms,
                methods,
                messages,
                questions);
    }

    /** The same under another number. */
    public Configuration as(int number) {
        return new Configuration(number, scopes, policies, passwords, networks, terms, methods, messages, questions);
    }
}
