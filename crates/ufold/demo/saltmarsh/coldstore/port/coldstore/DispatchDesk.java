package port.coldstore;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/** Hands out goods from the cold rooms to lorries and ships, and writes down what left. */
final class DispatchDesk {
    private static final int LORRY_PALLETS = 33;

    private final List<Consignment> waiting = new ArrayList<>();
    private final List<String> journal = new ArrayList<>();
    private int handedOut;

    void accept(Consignment consignment) {
        waiting.add(consignment);
    }

    List<String> getJournal() {
        return journal;
    }

    int getHandedOut() {
        return handedOut;
    }

    /** Loads frozen goods of an owner onto a lorry; pallets that found no room stay. */
    int loadLorry(String owner, String plate) {
        int room = LORRY_PALLETS;
        int loaded = 0;
        for (Consignment c : waiting) {
            if (!c.getOwner().equals(owner) || !c.isFrozen()) {
                continue;
            }
            int pallets = Math.min(room, c.getPallets());
            room -= pallets;
            loaded += pallets;
            handedOut += pallets;
        }
        journal.add("lorry " + plate + ": " + loaded + " pallets of " + owner);
        return loaded;
    }

    /** Loads frozen goods of an owner onto a ship; her hold takes more than a lorry. */
    int loadShip(String owner, String ship) {
        int room = 400;
        int loaded = 0;
        for (Consignment c : waiting) {
            if (!c.getOwner().equals(owner) || !c.isFrozen()) {
                continue;
            }
            int pallets = Math.min(room, c.getPallets());
            room -= pallets;
            loaded += pallets;
            handedOut += pallets;
        }
        journal.add("ship " + ship + ": " + loaded + " pallets of " + owner);
        return loaded;
    }

    /** Pallets of each owner. */
    String palletsByOwner() {
        Map<String, Integer> sums = new TreeMap<>();
        for (Consignment c : waiting) {
            int before = sums.getOrDefault(c.getOwner(), 0);
            sums.put(c.getOwner(), before + c.getPallets());
        }
        StringBuilder out = new StringBuilder();
        for (Map.Entry<String, Integer> e : sums.entrySet()) {
            out.append(e.getKey()).append(' ').append(e.getValue()).append('\n');
        }
        return out.toString();
    }

    /** Pallets of each kind of goods. */
    String palletsByGoods() {
        Map<String, Integer> sums = new TreeMap<>();
        for (Consignment c : waiting) {
            int before = sums.getOrDefault(c.getGoods(), 0);
            sums.put(c.getGoods(), before + c.getPallets());
        }
        StringBuilder out = new StringBuilder();
        for (Map.Entry<String, Integer> e : sums.entrySet()) {
            out.append(e.getKey()).append(' ').append(e.getValue()).append('\n');
        }
        return out.toString();
    }
}
