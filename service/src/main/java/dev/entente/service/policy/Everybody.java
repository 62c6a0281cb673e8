package dev.entente.service.policy;

import dev.entente.core.policy.Crowd;
import dev.entente.core.policy.PersonFacts;
import dev.entente.service.people.Census;
import dev.entente.service.people.DirectoryGroups;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Everybody laid out for questions about all of them; what changed about people is read again when somebody asks. */
@Component
@Transactional(readOnly = true)
class Everybody {
    private static final Census.Mark NEVER = new Census.Mark("never", "never", 0);
    // When more than one in so many changed, reading everybody is as cheap.
    private static final int FEW = 5;

    private final Census census;
    private final DirectoryGroups groups;
    private volatile Read read = new Read(NEVER, new Crowd(), List.of());

    Everybody(Census census, DirectoryGroups groups) {
        this.census = census;
        this.groups = groups;
    }

    /**
     * Everybody at one time; not to be changed.
     *
     * @param numbers each person's own number, by the number in the crowd
     */
    record Read(Census.Mark mark, Crowd crowd, List<Integer> numbers) {
        /** Some of them by their own numbers. */
        RoaringBitmap own(RoaringBitmap set) {
            var own = new RoaringBitmap();
            set.forEach((int number) -> own.add(numbers.get(number)));
            return own;
        }
    }

    /** As they are now; not to be changed. */
    Crowd now() {
        return read().crowd();
    }

    /** As they are now, with their own numbers. */
    Read read() {
        var mark = census.mark();
        var known = read;
        return known.mark().state().equals(mark.state()) ? known : read(mark);
    }

    private synchronized Read read(Census.Mark mark) {
        // Whoever waited for another's read may find what they need.
        if (!read.mark().state().equals(mark.state())) {
            var changed = read.mark().era().equals(mark.era()) ? census.changedSince(read.mark()) : null;
            read = changed == null || changed.size() > read.numbers().size() / FEW
                    ? whole(mark)
                    : changed(mark, changed);
        }
        return read;
    }

    private Read whole(Census.Mark mark) {
        var crowd = new Crowd();
        var numbers = new ArrayList<Integer>();
        census.people(null, (person, number) -> add(crowd, numbers, person, number));
        census.members(null, crowd.population()::addMember);
        return nested(mark, crowd, numbers);
    }

    private Read changed(Census.Mark mark, List<UUID> changed) {
        var crowd = read.crowd().copy();
        var numbers = new ArrayList<>(read.numbers());
        if (!changed.isEmpty()) {
            crowd.remove(changed);
            census.people(changed, (person, number) -> add(crowd, numbers, person, number));
            census.members(changed, crowd.population()::addMember);
        }
        census.groupsChangedSince(read.mark()).forEach(crowd.population()::setMembers);
        return nested(mark, crowd, numbers);
    }

    private static void add(Crowd crowd, List<Integer> numbers, PersonFacts person, int number) {
        crowd.add(person);
        if (crowd.population().number(person.subject().id()) == numbers.size()) {
            numbers.add(number);
        }
    }

    private Read nested(Census.Mark mark, Crowd crowd, List<Integer> numbers) {
        var graph = groups.groups();
        crowd.population().nest(graph);
        crowd.population().retainGroups(graph);
        crowd.protect(groups.protectedGroups());
        return new Read(mark, crowd, numbers);
    }
}
