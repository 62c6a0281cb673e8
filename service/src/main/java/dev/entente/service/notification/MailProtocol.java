package dev.entente.service.notification;

import jakarta.mail.Session;
import java.util.List;
import java.util.Properties;

/** How connections to mail servers are protected and bounded, alike for those that send and those that read. */
final class MailProtocol {
    private static final String LONGEST_MS = "8000";

    private MailProtocol() {}

    /**
     * A session of Jakarta Mail.
     *
     * @param protocol {@code smtp} or {@code imap}
     * @param security {@code tls}, {@code starttls} or {@code none}
     * @param signsIn whether there is a sign-in name
     */
    static Session session(String protocol, String security, boolean signsIn) {
        var properties = new Properties();
        var name = security.equals("tls") ? protocol + "s" : protocol;
        properties.put("mail.transport.protocol", name);
        properties.put("mail.store.protocol", name);
        for (var limit : List.of("connectiontimeout", "timeout", "writetimeout")) {
            properties.put("mail." + name + "." + limit, LONGEST_MS);
        }
        properties.put("mail." + protocol + ".starttls.enable", "true");
        properties.put("mail." + protocol + ".starttls.required", String.valueOf(security.equals("starttls")));
        properties.put("mail." + name + ".ssl.checkserveridentity", "true");
        properties.put("mail." + name + ".auth", String.valueOf(signsIn));
        return Session.getInstance(properties);
    }
}
