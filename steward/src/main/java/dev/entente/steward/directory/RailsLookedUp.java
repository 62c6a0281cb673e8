package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.DN;
import com.unboundid.ldap.sdk.Filter;
import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.SearchScope;
import dev.entente.steward.settings.StewardFile.Guard;
import dev.entente.steward.settings.TargetPart;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;

/** Whether what the guard rails name is there: a rail with a misspelled name would protect nobody, without a word. */
final class RailsLookedUp {
    private static final Set<String> GROUPS = Set.of("group", "groupofnames", "groupofuniquenames", "posixgroup");

    private final TargetPart.Ldap part;
    private final LDAPConnection connection;
    private final List<String> unresolved = new ArrayList<>();

    private RailsLookedUp(TargetPart.Ldap part, LDAPConnection connection) {
        this.part = part;
        this.connection = connection;
    }

    /** @return what cannot be resolved, a sentence each */
    static List<String> of(TargetPart.Ldap part, Guard guard, LDAPConnection connection) throws LDAPException {
        var rails = new RailsLookedUp(part, connection);
        for (var base : guard.bases()) {
            rails.base("guard.bases", base);
        }
        for (var group : guard.protectedGroups()) {
            rails.group("guard.protected-groups", group);
        }
        for (var base : guard.demand().bases()) {
            rails.base("guard.demand.bases", base);
        }
        for (var group : guard.demand().groups()) {
            rails.group("guard.demand.groups", group);
        }
        for (var account : guard.protectedAccounts()) {
            rails.account(account);
        }
        return rails.unresolved;
    }

    private void base(String where, String base) throws LDAPException {
        if (!DN.isValidDN(base)) {
            unresolved.add(where + ": \"" + base + "\" is not a distinguished name.");
        } else if (!DN.isDescendantOf(base, part.base(), true)) {
            unresolved.add(where + ": " + base + " is not below directory.base (" + part.base()
                    + "), so nobody there is ever found.");
        } else if (connection.getEntry(base, "1.1") == null) {
            unresolved.add(where + ": " + base + " does not exist, or the service account may not read it.");
        }
    }

    private void group(String where, String group) throws LDAPException {
        if (!DN.isValidDN(group)) {
            unresolved.add(where + ": \"" + group + "\" is not a distinguished name.");
            return;
        }
        var entry = connection.getEntry(group, "objectClass");
        if (entry == null) {
            unresolved.add(where + ": " + group + " does not exist, or the service account may not read it.");
        } else if (entry.getObjectClassValues() != null
                && List.of(entry.getObjectClassValues()).stream()
                        .noneMatch(c -> GROUPS.contains(c.toLowerCase(Locale.ROOT)))) {
            unresolved.add(where + ": " + group + " is not a group.");
        } else if (!part.activeDirectory() && !DN.isDescendantOf(group, part.groupBase(), true)) {
            unresolved.add(where + ": " + group + " is not below directory.group-base (" + part.groupBase()
                    + "), where groups are looked up, so its members would not be found.");
        }
    }

    private void account(String account) throws LDAPException {
        if (account.contains("=")) {
            if (!DN.isValidDN(account)) {
                unresolved.add("guard.protected-accounts: \"" + account + "\" is not a distinguished name.");
            } else if (connection.getEntry(account, "1.1") == null) {
                unresolved.add("guard.protected-accounts: " + account
                        + " does not exist, or the service account may not read it.");
            }
            return;
        }
        if (account.contains("\\") || account.contains("@")) {
            unresolved.add("guard.protected-accounts: \"" + account
                    + "\" has another form than accounts are compared by. Write the log-in name alone, or the distinguished"
                    + " name.");
            return;
        }
        var attribute = part.activeDirectory() ? "sAMAccountName" : "uid";
        var found =
                connection.search(part.base(), SearchScope.SUB, Filter.createEqualityFilter(attribute, account), "1.1");
        if (found.getEntryCount() == 0) {
            unresolved.add("guard.protected-accounts: nobody has the log-in name \"" + account + "\" below "
                    + part.base() + ".");
        }
    }
}
