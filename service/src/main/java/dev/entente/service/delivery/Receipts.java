package dev.entente.service.delivery;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Receipt;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.directory.Credentials;
import dev.entente.service.directory.Directories;
import dev.entente.service.directory.StewardCalls.Caller;
import dev.entente.wire.StewardApi;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.UUID;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Takes what stewards tell of orders. */
@Component
class Receipts {
    private final Directories directories;
    private final Credentials credentials;
    private final Endings endings;
    private final EventLog events;
    private final DeliveryEvents deliveryEvents;

    Receipts(
            Directories directories,
            Credentials credentials,
            Endings endings,
            EventLog events,
            DeliveryEvents deliveryEvents) {
        this.directories = directories;
        this.credentials = credentials;
        this.endings = endings;
        this.events = events;
        this.deliveryEvents = deliveryEvents;
    }

    /**
     * Takes receipts. One for an older epoch, or one that comes twice, changes nothing and counts as taken.
     *
     * @return the orders whose receipts were taken; those of others are not what they should be
     */
    @Transactional
    List<UUID> receive(Caller caller, List<StewardApi.ReceiptStatement> statements) {
        var member = directories
                .get(caller.directory())
                .stewards()
                .flatMap(r -> r.member(caller.steward()))
                .orElseThrow(() -> new InvalidDocument("roster", "this steward is not on the roster"));
        var receipts = new LinkedHashMap<StewardApi.ReceiptStatement, Receipt>();
        for (var statement : statements) {
            try {
                var receipt = Receipt.verify(statement.receipt(), member);
                if (receipt.order().equals(statement.order())) {
                    receipts.put(statement, receipt);
                }
            } catch (InvalidDocument e) {
                events.write(NewEvent.operation("steward.receipt-refused")
                        .with("steward", caller.name())
                        .with("why", e.getMessage()));
            }
        }
        var locked = endings.lock(receipts.values().stream().map(Receipt::order).toList());
        var taken = new ArrayList<UUID>();
        receipts.forEach((statement, receipt) -> {
            var row = locked.row(receipt.order());
            if (row != null && row.directory.equals(caller.directory())) {
                receive(locked, row, caller, statement.receipt(), receipt);
                credentials.told(row.directory, member, receipt.credentials());
                taken.add(row.id);
            }
        });
        endings.conclude(locked);
        return taken;
    }

    private void receive(Endings.Locked locked, DeliveryRow row, Caller caller, String signed, Receipt receipt) {
        var received = row.machine()
                .receive(caller.steward(), receipt.epoch(), receipt.outcome(), receipt.cause(), signed, locked.now());
        switch (received.effect()) {
            case ENDED -> endings.end(locked, row, received.delivery(), receipt);
            case SETTLED -> endings.settle(locked, row, received.delivery(), receipt);
            case IGNORED ->
                events.write(deliveryEvents.about("order.receipt-ignored", row).with("epoch", receipt.epoch()));
            case REPEATED, STILL_UNKNOWN -> {}
        }
    }
}
