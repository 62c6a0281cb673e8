package dev.entente.e2e;

/** {@link EveryMethod}, where a page is as wide as a desk's screen. */
class EveryMethodAtADeskTest extends EveryMethod {
    EveryMethodAtADeskTest() {
        super(1280, 800, 1);
    }
}
