package dev.entente.e2e;

/** Tests that publish something of their own, and are not about directories. */
abstract class PublishingTest extends PublishingIn<ServiceWorld> {
    PublishingTest() {
        super(ServiceWorld.get());
    }
}
