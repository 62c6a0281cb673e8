package dev.entente.steward.directory;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import com.unboundid.asn1.ASN1Integer;
import com.unboundid.asn1.ASN1Sequence;
import com.unboundid.ldap.listener.InMemoryDirectoryServer;
import com.unboundid.ldap.listener.InMemoryDirectoryServerConfig;
import com.unboundid.ldap.listener.InMemoryListenerConfig;
import com.unboundid.ldap.listener.SelfSignedCertificateGenerator;
import com.unboundid.ldap.listener.interceptor.InMemoryInterceptedModifyRequest;
import com.unboundid.ldap.listener.interceptor.InMemoryOperationInterceptor;
import com.unboundid.ldap.sdk.Attribute;
import com.unboundid.ldap.sdk.Control;
import com.unboundid.ldap.sdk.Entry;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.ModifyRequest;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.util.ssl.KeyStoreKeyManager;
import com.unboundid.util.ssl.SSLUtil;
import dev.entente.core.attempt.Cause;
import dev.entente.steward.settings.SampleFile;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.target.Target;
import dev.entente.steward.target.Target.Refused;
import java.io.FileInputStream;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyStore;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.UUID;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/**
 * What the domain controller of the other tests cannot be brought to do, played over real LDAPS by a scripted server of the
 * same kind: the policy-hints control, and refusals that say nothing but a number.
 */
class ScriptedServerTest {
    private static final UUID ID = UUID.fromString("0f1e2d3c-4b5a-6978-8796-a5b4c3d2e1f0");
    private static final String PERSON = "CN=Liv Berg,OU=People,DC=peer,DC=test";

    @TempDir
    private Path folder;

    private InMemoryDirectoryServer server;
    private LdapTarget target;
    private final List<ModifyRequest> asked = new ArrayList<>();
    private volatile LDAPException refuses;

    private void start(boolean hints) throws Exception {
        var config = new InMemoryDirectoryServerConfig("DC=peer,DC=test");
        config.setSchema(null);
        config.setEnforceAttributeSyntaxCompliance(false);
        config.addAdditionalBindCredentials("CN=svc,DC=peer,DC=test", "Svc-Peer-1");
        var root = new ArrayList<>(List.of(new Attribute("defaultNamingContext", "DC=peer,DC=test")));
        if (hints) {
            root.add(new Attribute("supportedControl", LdapText.POLICY_HINTS));
        }
        config.setCustomRootDSEAttributes(root);
        config.addInMemoryOperationInterceptor(new Script());
        var made = SelfSignedCertificateGenerator.generateTemporarySelfSignedCertificate("peer", "PKCS12");
        var store = KeyStore.getInstance("PKCS12");
        try (var in = new FileInputStream(made.getFirst())) {
            store.load(in, made.getSecond());
        }
        var certificate = (X509Certificate) store.getCertificate(store.aliases().nextElement());
        var tls = new SSLUtil(new KeyStoreKeyManager(made.getFirst(), made.getSecond(), "PKCS12", null), null);
        config.setListenerConfigs(
                InMemoryListenerConfig.createLDAPSConfig("peer", tls.createSSLServerSocketFactory("TLSv1.3")));
        server = new InMemoryDirectoryServer(config);
        server.add("dn: DC=peer,DC=test", "objectClass: domain", "dc: peer", "minPwdAge: -864000000000");
        server.add("dn: OU=People,DC=peer,DC=test", "objectClass: organizationalUnit", "ou: People");
        server.add(new Entry(
                PERSON,
                new Attribute("objectClass", "user"),
                new Attribute("objectGUID", bytesOf(ID)),
                new Attribute("sAMAccountName", "liv.berg"),
                new Attribute("pwdLastSet", "133900000000000000"),
                new Attribute("replPropertyMetaData", metaData(7))));
        server.startListening();
        var password = Files.writeString(folder.resolve("password"), "Svc-Peer-1\n");
        target = new LdapTarget(
                SampleFile.target(
                        TargetPart.Ldap.class,
                        folder,
                        "kind: active-directory",
                        "servers: [ldaps://localhost:" + server.getListenPort() + "]",
                        "pin: " + PinnedKey.of(certificate),
                        "base: DC=peer,DC=test",
                        "bind: CN=svc,DC=peer,DC=test",
                        "password-file: " + password,
                        "timeout: 3s"),
                SampleFile.guard(),
                (from, to, why) -> {});
    }

    @AfterEach
    void stop() {
        target.close();
        server.shutDown(true);
    }

    private final class Script extends InMemoryOperationInterceptor {
        @Override
        public void processModifyRequest(InMemoryInterceptedModifyRequest request) throws LDAPException {
            asked.add(request.getRequest().duplicate());
            if (refuses != null) {
                throw refuses;
            }
            // The server that plays knows no such control; the one that is played has obeyed it by now.
            request.setRequest(new ModifyRequest(
                    request.getRequest().getDN(), request.getRequest().getModifications()));
        }
    }

    /** The first three parts in little-endian order. */
    private static byte[] bytesOf(UUID id) {
        var text = id.toString().replace("-", "");
        var order = new int[] {3, 2, 1, 0, 5, 4, 7, 6, 8, 9, 10, 11, 12, 13, 14, 15};
        var bytes = new byte[16];
        for (var i = 0; i < 16; i++) {
            bytes[i] = (byte) Integer.parseInt(text.substring(2 * order[i], 2 * order[i] + 2), 16);
        }
        return bytes;
    }

    private static byte[] metaData(int version) {
        return ByteBuffer.allocate(64)
                .order(ByteOrder.LITTLE_ENDIAN)
                .putInt(0, 1)
                .putInt(8, 1)
                .putInt(16, 0x0009005A)
                .putInt(20, version)
                .array();
    }

    private void reset(String password) throws Exception {
        try (var visit = target.visit()) {
            var entry = visit.find(ID).orElseThrow();
            assertThat(entry.version()).isEqualTo("7");
            visit.reset(entry, password, true, false);
        }
    }

    @Test
    void a_reset_asks_for_history_and_minimum_age_where_the_server_offers_it() throws Exception {
        start(true);
        reset("Scripted-Quay-1");
        var hint = asked.get(0).getControl(LdapText.POLICY_HINTS);
        assertThat(hint).isNotNull();
        assertThat(hint.isCritical())
                .as("a server that cannot obey has to say so")
                .isTrue();
        var value = ASN1Sequence.decodeAsSequence(hint.getValue().getValue()).elements();
        assertThat(ASN1Integer.decodeAsInteger(value[0]).intValue()).isEqualTo(1);
        assertThat(asked.get(0).getModifications().get(0).getValueByteArrays()[0])
                .isEqualTo("\"Scripted-Quay-1\"".getBytes(StandardCharsets.UTF_16LE));
    }

    @Test
    void a_server_that_does_not_offer_it_is_not_asked() throws Exception {
        start(false);
        reset("Scripted-Quay-2");
        assertThat(Arrays.stream(asked.get(0).getControls()).map(Control::getOID))
                .doesNotContain(LdapText.POLICY_HINTS);
    }

    @ParameterizedTest
    @CsvSource({
        "19, '0000052D: Constraint violation, the password was already used (in history)', USED_BEFORE",
        "19, '0000052D: AtrErr: DSID-03190F80, #1: 0: 0000052D: DSID-03190F80, problem 1005 (CONSTRAINT_ATT_TYPE)', DIRECTORY_RULES",
        "53, '0000052D: SvcErr: DSID-031A12D2, problem 5003 (WILL_NOT_PERFORM), data 0', DIRECTORY_RULES",
        "50, '00000005: SecErr: DSID-031A1190, problem 4003 (INSUFF_ACCESS_RIGHTS), data 0', NO_RIGHT"
    })
    void what_it_refuses_is_told_by_its_cause(int code, String says, Cause cause) throws Exception {
        start(true);
        refuses = new LDAPException(ResultCode.valueOf(code), says);
        var refused = catchThrowableOfType(Refused.class, () -> reset("Scripted-Quay-3"));
        assertThat(refused.reason()).isEqualTo(cause);
        assertThat(refused.getMessage()).startsWith(code + " 0000").doesNotContain("Scripted-Quay");
    }

    @Test
    void too_recent_is_told_with_the_moment_from_when_it_is_allowed() throws Exception {
        start(true);
        try (var visit = target.visit()) {
            var entry = visit.find(ID).orElseThrow();
            // One day, in units of 100 ns.
            assertThat(visit.earliestChange(entry)).contains(entry.setAt().plus(Duration.ofDays(1)));
        }
    }

    @Test
    void a_server_that_is_busy_is_no_refusal() throws Exception {
        start(true);
        refuses = new LDAPException(ResultCode.BUSY, "00002024: try later");
        assertThat(catchThrowableOfType(Target.Lost.class, () -> reset("Scripted-Quay-4")))
                .hasMessageContaining("51 busy");
    }
}
