package dev.entente.e2e;

/** Tests that publish something of their own in the world of real directories. */
abstract class PublishingWithDirectoriesTest extends PublishingIn<World> {
    PublishingWithDirectoriesTest() {
        super(World.get());
    }
}
