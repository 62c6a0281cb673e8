package dev.entente.steward.directory;

import com.unboundid.asn1.ASN1OctetString;
import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.SearchRequest;
import com.unboundid.ldap.sdk.SearchResultEntry;
import com.unboundid.ldap.sdk.SearchScope;
import com.unboundid.ldap.sdk.controls.SimplePagedResultsControl;
import java.util.List;
import java.util.function.Consumer;

/** Reads a subtree page by page (RFC 2696), so that memory does not grow with the directory. */
final class PagedSearch {
    static final int PAGE = 500;

    private PagedSearch() {}

    static void read(
            LDAPConnection connection,
            String base,
            String filter,
            Consumer<List<SearchResultEntry>> consumer,
            String... attributes)
            throws LDAPException {
        ASN1OctetString cookie = null;
        do {
            var request = new SearchRequest(base, SearchScope.SUB, filter, attributes);
            request.addControl(new SimplePagedResultsControl(PAGE, cookie));
            var result = connection.search(request);
            if (!result.getSearchEntries().isEmpty()) {
                consumer.accept(result.getSearchEntries());
            }
            var next = SimplePagedResultsControl.get(result);
            cookie = next != null && next.moreResultsToReturn() ? next.getCookie() : null;
        } while (cookie != null);
    }
}
