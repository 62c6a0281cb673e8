package dev.entente.e2e;

/** {@link EveryMethod}, where a page is as wide as a phone. */
class EveryMethodOnAPhoneTest extends EveryMethod {
    EveryMethodOnAPhoneTest() {
        super(390, 844, 0);
    }
}
