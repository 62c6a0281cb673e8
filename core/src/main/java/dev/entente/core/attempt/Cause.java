package dev.entente.core.attempt;

/** Why a delivery did not end as done: a sentence for the person, one for the administrator, and what to do about it. */
public enum Cause {
    TOO_SHORT(
            true,
            "Your organisation needs a longer password than this one.",
            "The directory refused the password: too short.",
            "Raise min-length in the policy's password rules to the directory's own, so that people see it while typing."),
    NOT_COMPLEX(
            true,
            "Your organisation needs more kinds of characters. Mix upper and lower case, digits and symbols, and leave out your"
                    + " name.",
            "The directory refused the password: not complex enough.",
            "Set kinds: 3 and no-personal-details in the policy's password rules, so that people see it while typing."),
    USED_BEFORE(
            true,
            "You've used this password before. Choose one you haven't used here.",
            "The directory refused the password: it is in the history.",
            "Nothing. The person chooses another one."),
    TOO_LONG(
            true,
            "Your organisation's directory doesn't accept a password this long. Choose a shorter one.",
            "The directory refused the password: too long.",
            "Set max-length in the policy's password rules to the directory's own, so that people see it while typing."),
    WRONG_OLD(
            true,
            "Your current password wasn't right, so nothing has changed. Type it again.",
            "The directory refused the change: the current password was wrong. It counts this towards its lockout.",
            "Nothing, if it happens once. Someone who has forgotten their password needs a reset."),
    NEAR_LOCKOUT(
            false,
            "There were too many wrong passwords. One more would lock your account, so we didn't try. Choose \"I forgot my"
                    + " password\" instead.",
            "One more wrong password would have locked the account, so the steward didn't try the current one.",
            "The person can reset instead. The directory's own count falls with time."),
    LOCKED(
            false,
            "Your account is locked, so the password can't be changed. Unlock it first, or choose a new password.",
            "The account is locked, so the directory accepts no change.",
            "The person can unlock or reset, if a policy allows it."),
    TOO_RECENT(
            false,
            "Your organisation doesn't allow another password change so soon.",
            "The directory refused the password: minimum age not reached.",
            "Lower the directory's minimum password age if people should be able to recover twice within it."),
    DIRECTORY_RULES(
            true,
            "Your organisation's directory didn't accept this password. Choose a longer, less common one.",
            "The directory refused the password by its own rules and didn't say which.",
            "Compare the policy's password rules with the directory's, and check the raw result."),
    OUR_RULES(
            true,
            "This password doesn't meet the rules shown. Choose another one.",
            "The steward opened the seal and found that the password doesn't meet the policy's rules.",
            "Nothing, if it happens once. If it repeats, the portal and the steward disagree about the rules."),
    NO_RIGHT(
            false,
            "We couldn't set the password. Give the help desk the reference; they can see why.",
            "The service account doesn't have the right to do this on this entry.",
            "Run entente directory preflight and delegate what it names as missing."),
    NO_ENTRY(
            false,
            "We couldn't find your account where it should be. Give the help desk the reference.",
            "The account is no longer in the directory, or not below the bases the steward may write to.",
            "Run entente directory sync, and check whether the account was moved."),
    PROTECTED(
            false,
            "You can't recover this account here. Give the help desk the reference.",
            "The steward's own guard rails protect this account.",
            "Nothing, if it should be protected. Otherwise change the guard section of the steward's own file."),
    PROOF_DEMANDED(
            false,
            "For this account your organisation needs a passkey or a phone of yours that its directory knows. Start again and use"
                    + " one, or give the help desk the reference.",
            "The steward's own file demands a proof that the steward can check by itself, and there was none by a credential that it"
                    + " knows for this account.",
            "The person changes their password once on the browser where they set up their passkey, or the operator signs the"
                    + " credential: entente steward sign-credential."),
    GUARD_RAIL(
            false,
            "This can't be done right now. Try again later, or give the help desk the reference.",
            "A limit in the steward's own file was reached.",
            "Check the steward's log for what used up its writes per minute or per day."),
    NOT_SWITCHED_ON(
            false,
            "This can't be done here. Give the help desk the reference.",
            "The steward's own file doesn't allow this action.",
            "Add the action to guard.actions in the steward's own file, if you want it."),
    SUSPENDED(
            false,
            "Your organisation has paused changes in this directory, so nothing has changed. Try again later.",
            "The directory is suspended.",
            "Resume it when it's ready: entente directory resume."),
    STOPPED(
            false,
            "Your organisation has paused this for now, so nothing has changed. Try again later.",
            "An administrator stopped it before it was written.",
            "Resume it when it's time: entente stops, entente resume."),
    BAD_SEAL(
            false,
            "Something didn't match, so nothing has changed. Start again, or give the help desk the reference.",
            "The steward refused the sealed password.",
            "Check the detail. If it repeats, treat it as an attack and stop the directory."),
    BAD_EVIDENCE(
            false,
            "Something didn't match, so nothing has changed. Start again, or give the help desk the reference.",
            "The steward refused the order: its evidence doesn't match it.",
            "Check the detail. If it repeats, treat it as an attack and stop the directory."),
    SEEN_BEFORE(
            false,
            "This was already handled once, so nothing has changed. Start again.",
            "The steward refused a seal it had seen before.",
            "If it repeats, treat it as an attack and stop the directory."),
    EXPIRED(
            false,
            "It took too long, so nothing has changed. Start again.",
            "No steward could carry it out before it expired.",
            "Check that a steward of this directory is running: entente steward list."),
    UNREACHABLE(
            false,
            "We couldn't reach the directory, so nothing has changed. Try again in a few minutes.",
            "The steward couldn't reach the directory, or didn't trust its certificate.",
            "Run entente steward check on the steward's machine."),
    DIRECTORY_ERROR(
            false,
            "The directory answered with an error, so nothing has changed. Give the help desk the reference.",
            "The directory answered with something other than a known refusal.",
            "Check the raw result and the directory's own log."),
    NOT_WRITTEN(
            false,
            "It turned out that nothing has changed. Your password is the one you had before. Start again.",
            "A later look showed that the write never took effect.",
            "Nothing. The person starts again."),
    LOST_TRACK(
            false,
            "We can't tell whether your new password is set. Try to sign in with it. If that fails, start again, or give the"
                    + " help desk the reference.",
            "The steward stopped in the middle, and neither the directory's version nor a bind tells whether it wrote.",
            "Ask the person to try the new password, and check the directory's own log.");

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
