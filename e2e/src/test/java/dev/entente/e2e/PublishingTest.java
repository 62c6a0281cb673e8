package dev.entente.e2e;

/** Tests that publish something of their own in the world of real directories. */
abstract class PublishingTest extends PublishingIn<World> {
    PublishingTest() {
        super(World.get());
    }
}
