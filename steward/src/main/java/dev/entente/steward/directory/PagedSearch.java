package dev.entente.steward.directory;

import com.unboundid.asn1.ASN1OctetString;
import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.SearchRequest;
import com.unboundid.ldap.sdk.SearchResultEntry;
import com.unboundid.ldap.sdk.SearchScope;
import com.unboundid.ldap.sdk.controls.SimplePagedResultsControl;
import java.util.List;

/** Reads a subtree page by page (RFC 2696), so that memory does not grow with the directory. */
final class PagedSearch {
    /** Entries on a page, and people or OUs in a batch. */
    static final int PAGE = 500;
    /** Groups on a page: each may hold thousands of names. */
    static final int GROUPS_AT_ONCE = 50;
    /** Members of a group in one batch. */
    static final int MEMBERS = 2000;

    private PagedSearch() {}

    /** Takes one page. */
    interface Page {
        void take(List<SearchResultEntry> entries) throws LDAPException;
    }

    static void read(LDAPConnection connection, String base, String filter, int size, Page page, String... attributes)
            throws LDAPException {
        ASN1OctetString cookie = null;
        do {
            var request = new SearchRequest(base, SearchScope.SUB, filter, attributes);
            request.addControl(new SimplePagedResultsControl(size, cookie));
            var result = connection.search(request);
            if (!result.getSearchEntries().isEmpty()) {
                page.take(result.getSearchEntries());
            }
            var next = SimplePagedResultsControl.get(result);
            cookie = next != null && next.moreResultsToReturn() ? next.getCookie() : null;
        } while (cookie != null);
    }
}
