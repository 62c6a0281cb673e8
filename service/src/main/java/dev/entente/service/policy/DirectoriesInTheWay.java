package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Circumstances;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Decision.Obstacle;
import dev.entente.service.directory.ConnectedStewards;
import dev.entente.service.directory.Directories;
import dev.entente.service.directory.SealingKeys;
import dev.entente.service.people.Person;
import dev.entente.service.platform.ServiceSettings;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Directories that are stopped, or that nobody serves now. */
@Component
class DirectoriesInTheWay implements Hindrance {
    private final Directories directories;
    private final ServiceSettings settings;
    private final SealingKeys sealingKeys;
    private final ConnectedStewards stewards;

    DirectoriesInTheWay(
            Directories directories, ServiceSettings settings, SealingKeys sealingKeys, ConnectedStewards stewards) {
        this.directories = directories;
        this.settings = settings;
        this.sealingKeys = sealingKeys;
        this.stewards = stewards;
    }

    @Override
    @Transactional(readOnly = true)
    public Found of(Person person, Decision decision, Circumstances circumstances) {
        var obstacles = new ArrayList<Obstacle>();
        if (decision.action() == Action.DETAILS) {
            return new Found(obstacles, List.of(), Map.of());
        }
        var targets = decision.policy().orElseThrow().deliverTo().value();
        person.accounts().stream()
                .filter(a -> targets.contains(a.directory()) && !a.disabled() && !a.quarantined())
                .map(a -> a.directoryId())
                .distinct()
                .map(directories::get)
                .forEach(served -> find(served, decision.action(), obstacles));
        person.accounts().stream()
                .filter(a -> targets.contains(a.directory()) && a.quarantined())
                .forEach(a -> obstacles.add(new Obstacle(
                        "account-in-doubt",
                        "It's unclear who owns the account " + a.login() + " in " + a.directory()
                                + ", so nothing is written to it.",
                        "Settle it: entente person cases.",
                        true)));
        return new Found(obstacles, List.of(), Map.of());
    }

    private void find(Directories.Served served, Action action, List<Obstacle> obstacles) {
        if (served.suspended()) {
            obstacles.add(new Obstacle(
                    "directory-stopped",
                    "The directory " + served.name() + " is stopped, so nothing is written there.",
                    "Let it go on when it's time: entente resume directory:" + served.name() + ", or entente directory"
                            + " resume " + served.name() + ".",
                    true));
        } else if (served.stewards().isEmpty()) {
            obstacles.add(new Obstacle(
                    "no-steward",
                    "No steward serves the directory " + served.name() + " yet.",
                    "Admit one and sign the roster: entente steward admit --help.",
                    true));
        } else if (!stewards.connected(served.id())) {
            obstacles.add(new Obstacle(
                    "steward-away",
                    "No steward of " + served.name()
                            + " that gets orders is connected. What is handed in waits for one, at most "
                            + settings.sealLife().toMinutes() + " minutes.",
                    "Start it on its machine, and look at its log: entente steward run. Or see what preflight says: entente directory"
                            + " preflight " + served.name() + ".",
                    true));
        } else if (action != Action.UNLOCK && sealingKeys.inForce(served.id()).isEmpty()) {
            obstacles.add(new Obstacle(
                    "no-sealing-key",
                    "No steward of " + served.name() + " has a key that passwords can be sealed to.",
                    "Look at the steward's log: it hands in a new key when it starts.",
                    true));
        }
    }
}
