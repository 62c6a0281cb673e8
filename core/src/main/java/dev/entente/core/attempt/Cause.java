package dev.entente.core.attempt;

/** Why a delivery did not end as done: a sentence for the person, one for the administrator, and what to do about it. */
public enum Cause {
    TOO_SHORT(
            true,
            "Your organisation asks for a longer password than this one.",
            "The directory refused the password: too short.",
            "Raise min-length in the policy's password rules to the directory's own, so that people see it while typing."),
    NOT_COMPLEX(
            true,
            "Your organisation asks for more kinds of characters: mix upper and lower case, digits and signs, and leave out"
                    + " your name.",
            "The directory refused the password: not complex enough.",
            "Set kinds: 3 and no-personal-details in the policy's password rules, so that people see it while typing."),
    USED_BEFORE(
            true,
            "You have used this password before. Choose one that you never had here.",
            "The directory refused the password: it is in the history.",
            "Nothing; the person chooses another."),
    TOO_LONG(
            true,
            "Your organisation's directory does not take a password this long. Choose a shorter one.",
            "The directory refused the password: too long.",
            "Set max-length in the policy's password rules to the directory's own, so that people see it while typing."),
    WRONG_OLD(
            true,
            "The password you have now was not right. Nothing was changed; type it again.",
            "The directory refused the change: the old password was wrong. It counts this towards its lockout.",
            "Nothing, if it happens once; a person who does not know the old password needs a reset."),
    NEAR_LOCKOUT(
            false,
            "There were too many wrong passwords. One more would lock your account, so nothing was tried. Choose \"I forgot"
                    + " my password\" instead.",
            "One more wrong password would have locked the account, so the steward did not try the old one.",
            "The person can reset instead; the directory's own count falls with time."),
    LOCKED(
            false,
            "Your account is locked, so the password cannot be changed. Unlock it first, or get a new password.",
            "The account is locked; the directory takes no change.",
            "The person can unlock or reset, if a policy allows it."),
    TOO_RECENT(
            false,
            "Your organisation does not let a password be changed again so soon.",
            "The directory refused the password: minimum age not reached.",
            "Lower the directory's minimum password age if people should be able to recover twice within it."),
    DIRECTORY_RULES(
            true,
            "Your organisation's directory did not accept this password. Choose a longer and less common one.",
            "The directory refused the password by its own rules and did not say which.",
            "Compare the policy's password rules with the directory's; look at the raw result."),
    OUR_RULES(
            true,
            "This password does not meet the rules shown. Choose another.",
            "The steward opened the seal and found that the password does not meet the policy's rules.",
            "Nothing, if it happens once; otherwise the person's page and the steward disagree about the rules."),
    NO_RIGHT(
            false,
            "The password could not be written. The help desk has been given the reason; give them the reference.",
            "The service account has no right to do this on this entry.",
            "Run entente directory preflight and delegate what it names as missing."),
    NO_ENTRY(
            false,
            "Your account was not found where it should be. Give the help desk the reference.",
            "The account is no longer in the directory, or not below the bases that the steward may touch.",
            "Run entente directory sync; check that the account was not moved."),
    PROTECTED(
            false,
            "This account cannot be recovered here. Give the help desk the reference.",
            "The steward's own guard rails protect this account.",
            "Nothing, if it should be protected; otherwise change the guard section of the steward's own file."),
    GUARD_RAIL(
            false,
            "This cannot be done right now. Try again later, or give the help desk the reference.",
            "A limit in the steward's own file was reached.",
            "Look at the steward's log for what used up its writes per minute or per day."),
    NOT_SWITCHED_ON(
            false,
            "This cannot be done here. Give the help desk the reference.",
            "The steward's own file does not switch this action on.",
            "Name the action under guard.actions in the steward's own file, if it is wanted."),
    SUSPENDED(
            false,
            "Your organisation has paused changes in this directory, so nothing was changed. Try again later.",
            "The directory is suspended.",
            "Resume it when it is ready: entente directory resume."),
    STOPPED(
            false,
            "Your organisation has paused this for now, so nothing was changed. Try again later.",
            "An administrator stopped it before it was written.",
            "Let it go on when it is time: entente stops, entente resume."),
    BAD_SEAL(
            false,
            "Something did not match, so nothing was changed. Start again, or give the help desk the reference.",
            "The steward refused the sealed password.",
            "Look at the detail; if it repeats, treat it as an attack and stop the directory."),
    BAD_EVIDENCE(
            false,
            "Something did not match, so nothing was changed. Start again, or give the help desk the reference.",
            "The steward refused the order: its evidence does not agree to it.",
            "Look at the detail; if it repeats, treat it as an attack and stop the directory."),
    SEEN_BEFORE(
            false,
            "This was already handled once, so nothing was changed. Start again.",
            "The steward refused a seal that it had seen before.",
            "Treat it as an attack if it repeats."),
    EXPIRED(
            false,
            "It took too long, so nothing was changed. Start again.",
            "No steward could carry it out before it expired.",
            "Check that a steward of this directory is running: entente steward list."),
    UNREACHABLE(
            false,
            "The directory could not be reached, so nothing was changed. Try again later.",
            "The steward could not reach the directory, or did not trust its certificate.",
            "Run entente steward check on the steward's machine."),
    DIRECTORY_ERROR(
            false,
            "The directory answered with an error, so nothing was changed. Give the help desk the reference.",
            "The directory answered in a way that is none of the known refusals.",
            "Look at the raw result and at the directory's own log."),
    NOT_WRITTEN(
            false,
            "It turned out that nothing was changed. Your password is the one you had before; start again.",
            "A later look showed that the write never took effect.",
            "Nothing; the person starts again."),
    LOST_TRACK(
            false,
            "We cannot tell whether your new password is in place. Try to sign in with it; if that fails, start again, or call"
                    + " the help desk with the reference.",
            "The steward stopped in the middle, and the directory's version and bind do not tell who wrote.",
            "Ask the person to try the new password; look at the directory's own log.");

    private final boolean chooseAgain;
    private final String person;
    private final String administrator;
    private final String whatToDo;

    Cause(boolean chooseAgain, String person, String administrator, String whatToDo) {
        this.chooseAgain = chooseAgain;
        this.person = person;
        this.administrator = administrator;
        this.whatToDo = whatToDo;
    }

    /** Whether another password could succeed, so that the person is asked for one. */
    public boolean chooseAgain() {
        return chooseAgain;
    }

    /** A sentence for the person. */
    public String person() {
        return person;
    }

    /** A sentence for the administrator. */
    public String administrator() {
        return administrator;
    }

    /** What the administrator can do about it. */
    public String whatToDo() {
        return whatToDo;
    }
}
