package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.IntermediateResponse;
import com.unboundid.ldap.sdk.IntermediateResponseListener;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.SearchResultEntry;
import com.unboundid.ldap.sdk.SearchResultListener;
import com.unboundid.ldap.sdk.SearchResultReference;
import com.unboundid.ldap.sdk.controls.ContentSyncInfoIntermediateResponse;
import com.unboundid.ldap.sdk.controls.ContentSyncState;
import com.unboundid.ldap.sdk.controls.ContentSyncStateControl;
import dev.entente.steward.target.Target.Reading;
import dev.entente.steward.target.Target.Sink;
import dev.entente.wire.StewardApi;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.UUID;

/**
 * Sorts what a standard LDAP server sends into batches as it comes, so that memory does not grow with the directory: a sink
 * that is busy makes the connection wait.
 */
final class Gathering implements SearchResultListener, IntermediateResponseListener {
    private final Reading reading;
    private final Sink sink;
    private final List<StewardApi.Person> people = new ArrayList<>();
    private final List<StewardApi.Group> groups = new ArrayList<>();
    private final List<String> ous = new ArrayList<>();
    private final List<UUID> gone = new ArrayList<>();
    private LDAPException failed;

    Gathering(Reading reading, Sink sink) {
        this.reading = reading;
        this.sink = sink;
    }

    @Override
    public void searchEntryReturned(SearchResultEntry entry) {
        try {
            var state = ContentSyncStateControl.get(entry);
            if (state != null && state.getState() == ContentSyncState.DELETE) {
                gone.add(state.getEntryUUID());
            } else if (state == null || state.getState() != ContentSyncState.PRESENT) {
                sort(entry);
            }
        } catch (LDAPException e) {
            failed = e;
        }
    }

    private void sort(SearchResultEntry entry) throws LDAPException {
        var classes = LdapText.values(entry, "objectClass");
        if (classes.stream().anyMatch("organizationalUnit"::equalsIgnoreCase)) {
            ous.add(entry.getDN());
            if (ous.size() == PagedSearch.PAGE) {
                flush();
            }
        } else if (classes.stream().anyMatch(c -> c.toLowerCase(Locale.ROOT).startsWith("groupof"))) {
            var members = new ArrayList<>(LdapText.values(entry, "member"));
            members.addAll(LdapText.values(entry, "uniqueMember"));
            var cn = entry.getAttributeValue("cn");
            for (var from = 0; from == 0 || from < members.size(); from += PagedSearch.MEMBERS) {
                groups.add(new StewardApi.Group(
                        entry.getDN(),
                        cn,
                        members.subList(from, Math.min(members.size(), from + PagedSearch.MEMBERS)),
                        from == 0));
                flush();
            }
        } else if (entry.hasAttribute("entryUUID")) {
            people.add(StandardLdap.person(entry, reading));
            if (people.size() == PagedSearch.PAGE) {
                flush();
            }
        }
    }

    /** Sets of entries that are gone; sets of those still present are left to the full comparison. */
    @Override
    public void intermediateResponseReturned(IntermediateResponse response) {
        try {
            var info = ContentSyncInfoIntermediateResponse.decode(response);
            if (info.getEntryUUIDs() != null && info.refreshDeletes()) {
                gone.addAll(info.getEntryUUIDs());
            }
        } catch (LDAPException e) {
            failed = e;
        }
    }

    @Override
    public void searchReferenceReturned(SearchResultReference reference) {
        // Another server's part of the tree is another directory.
    }

    /** Hands over what is left. */
    void end() throws LDAPException {
        flush();
        if (failed != null) {
            throw failed;
        }
    }

    private void flush() throws LDAPException {
        if (!people.isEmpty() || !groups.isEmpty() || !ous.isEmpty() || !gone.isEmpty()) {
            sink.take(new StewardApi.Batch(
                    List.copyOf(people), List.copyOf(groups), List.copyOf(ous), List.copyOf(gone)));
            people.clear();
            groups.clear();
            ous.clear();
            gone.clear();
        }
    }
}
