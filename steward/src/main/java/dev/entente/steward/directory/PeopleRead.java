package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.DN;
import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.LDAPSearchException;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.ldap.sdk.SearchResultEntry;
import dev.entente.wire.DirectoryApi.Finding;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * What a preflight learns from reading everybody once: how many they are, who has no e-mail address, and somebody in each
 * place. Nothing that grows with the directory is kept.
 */
final class PeopleRead {
    private static final int MOST_PLACES = 300;
    private static final int MOST_IN_A_PLACE = 3;

    private final String login;
    private final List<String> withoutMail = new ArrayList<>();
    private final Map<String, List<String>> places = new LinkedHashMap<>();
    private int people;
    private int missMail;

    private PeopleRead(String login) {
        this.login = login;
    }

    /**
     * Reads them page by page, and tells when a size limit of the server cuts the reading short.
     *
     * @param login the attribute that names an account in findings
     */
    static PeopleRead of(LDAPConnection connection, String base, String filter, String login, List<Finding> findings)
            throws LDAPException {
        var read = new PeopleRead(login);
        try {
            PagedSearch.read(connection, base, filter, PagedSearch.PAGE, read::take, login, "mail");
        } catch (LDAPSearchException e) {
            if (!e.getResultCode().equals(ResultCode.SIZE_LIMIT_EXCEEDED)) {
                throw e;
            }
            findings.add(new Finding(
                    "error",
                    "size-limit",
                    "The server limits how many entries it returns, so not everybody can be synchronised.",
                    "code 4 after " + (read.people + e.getEntryCount()) + " entries below " + base,
                    "Lift the size limit for the service account only, for example: limits dn.exact=\"SERVICE ACCOUNT\""
                            + " size=unlimited."));
        }
        findings.add(LdapText.ok("reading", "People can be read.", read.people + " accounts below " + base));
        return read;
    }

    private void take(List<SearchResultEntry> page) throws LDAPException {
        for (var person : page) {
            people++;
            if (!person.hasAttribute("mail") && missMail++ < LdapText.SHOWN) {
                var name = person.getAttributeValue(login);
                withoutMail.add(name == null ? person.getDN() : name);
            }
            var parent = new DN(person.getDN()).getParent();
            if (parent == null) {
                throw new LDAPException(ResultCode.INVALID_DN_SYNTAX, "an account has no parent");
            }
            var place = parent.toString();
            if (places.size() < MOST_PLACES || places.containsKey(place)) {
                var here = places.computeIfAbsent(place, p -> new ArrayList<>());
                if (here.size() < MOST_IN_A_PLACE) {
                    here.add(person.getDN());
                }
            }
        }
    }

    /** Those of the places that are below one of these bases: elsewhere nothing is ever written, and no right is needed. */
    Map<String, List<String>> placesBelow(List<String> bases) throws LDAPException {
        var below = new LinkedHashMap<String, List<String>>();
        for (var place : places.entrySet()) {
            for (var base : bases) {
                if (DN.isDescendantOf(place.getKey(), base, true)) {
                    below.put(place.getKey(), place.getValue());
                }
            }
        }
        return below;
    }

    /** People whom no code can reach by mail. */
    Finding mail(boolean needed) {
        if (missMail == 0) {
            return LdapText.ok("mail", "Everybody who is not disabled has an e-mail address.", "mail");
        }
        return new Finding(
                needed ? "warning" : "info",
                "mail",
                missMail + (missMail == 1 ? " account has" : " accounts have") + " no e-mail address"
                        + (needed ? ", which a published policy needs." : "."),
                String.join(" · ", withoutMail)
                        + (missMail > withoutMail.size() ? " and " + (missMail - withoutMail.size()) + " more" : ""),
                "Fill in the mail attribute in the directory, or let their policy accept another method.");
    }
}
