package dev.entente.service.access;

import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Who helps people, and whom they may help. */
@Component
@Transactional(readOnly = true)
public class Staff {
    private final Administrators administrators;

    Staff(Administrators administrators) {
        this.administrators = administrators;
    }

    /**
     * Somebody who is signed in.
     *
     * @param scopes whose people they help; empty for everybody
     * @param ownLogin by which they sign in to their own account; empty if that is not known
     */
    public record Member(String login, List<String> scopes, Optional<String> ownLogin) {}

    /** The one with this sign-in name, who is there. */
    public Member member(String login) {
        var row = administrators.named(login);
        return new Member(row.login, List.of(row.scopes), Optional.ofNullable(row.ownLogin));
    }
}
