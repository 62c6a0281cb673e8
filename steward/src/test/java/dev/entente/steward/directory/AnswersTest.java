package dev.entente.steward.directory;

import static org.assertj.core.api.Assertions.assertThat;

import com.unboundid.ldap.sdk.Control;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.LDAPResult;
import com.unboundid.ldap.sdk.ResultCode;
import dev.entente.core.attempt.Cause;
import dev.entente.steward.target.Target.Proof;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** The table of docs/directories.md, with answers that the real servers of the tests cannot be brought to give. */
class AnswersTest {
    private static LDAPException answer(int code, String diagnostic) {
        return new LDAPException(
                new LDAPResult(1, ResultCode.valueOf(code), diagnostic, null, new String[0], new Control[0]));
    }

    @ParameterizedTest
    @CsvSource({
        "19, '0000052D: Constraint violation - check_password_restrictions: the password is too short', TOO_SHORT",
        "19, '0000052D: the password does not meet the complexity criteria', NOT_COMPLEX",
        "19, '0000052D: the password was already used (in history)', USED_BEFORE",
        "19, '0000052D: password is too recent to change', TOO_RECENT",
        "19, '0000052D: SvcErr: DSID-031A12D2, problem 5003', DIRECTORY_RULES",
        "50, '00002098: insufficient', NO_RIGHT",
        "32, '00002030: no such object', NO_ENTRY",
        "53, '00002035: unwilling', DIRECTORY_RULES",
        "80, 'other', DIRECTORY_ERROR"
    })
    void refusals_of_the_active_directory_kind(int code, String diagnostic, Cause cause) {
        assertThat(new ActiveDirectory(null, null)
                        .refusal(answer(code, diagnostic))
                        .cause())
                .isEqualTo(cause);
    }

    @ParameterizedTest
    @CsvSource({
        "52e, WRONG",
        "530, RIGHT",
        "531, RIGHT",
        "532, RIGHT",
        "533, RIGHT",
        "701, RIGHT",
        "773, RIGHT",
        "775, SAYS_NOTHING"
    })
    void what_a_failed_bind_says_about_the_password(String data, Proof proof) {
        var error = answer(
                49, "80090308: LdapErr: DSID-0C0903A9, comment: AcceptSecurityContext error, data " + data + ", v1db1");
        assertThat(new ActiveDirectory(null, null).judge(error).proof()).isEqualTo(proof);
    }

    @Test
    void a_bind_that_could_not_be_tried_says_nothing() {
        assertThat(new ActiveDirectory(null, null).judge(answer(81, "down")).proof())
                .isEqualTo(Proof.SAYS_NOTHING);
        assertThat(new StandardLdap(null).judge(answer(81, "down")).proof()).isEqualTo(Proof.SAYS_NOTHING);
        assertThat(new StandardLdap(null).judge(answer(49, "")).proof()).isEqualTo(Proof.WRONG);
    }

    @Test
    void what_a_server_says_is_shown_on_one_line_of_bounded_length() {
        assertThat(LdapText.bounded("a\nb\u0000c")).isEqualTo("a b c");
        assertThat(LdapText.bounded("x".repeat(1000))).hasSize(201);
        assertThat(new StandardLdap(null).refusal(answer(50, "no")).cause()).isEqualTo(Cause.NO_RIGHT);
        assertThat(new StandardLdap(null).refusal(answer(19, "no")).cause()).isEqualTo(Cause.DIRECTORY_RULES);
    }
}
