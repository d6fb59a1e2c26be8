package port.coldstore;

import java.io.IOException;
import java.io.StringReader;

/** Tests of the dispatch desk that need only a JDK: a line for each that passes, an error for one that does not. */
final class ColdStoreTest {
    private static final String LOG = "north -182\nsouth -30\nnorth -175\nnorth\nsouth 14\n";

    private ColdStoreTest() {
    }

    private static void same(String test, Object expected, Object found) {
        if (!expected.equals(found)) {
            throw new AssertionError(test + ": expected " + expected + ", found " + found);
        }
        System.out.println(test + " ok");
    }

    private static DispatchDesk desk() {
        DispatchDesk desk = new DispatchDesk();
        desk.accept(new Consignment("Marsh Fish", "herring", 20, -20));
        desk.accept(new Consignment("Marsh Fish", "shrimps", 30, -24));
        desk.accept(new Consignment("Marsh Fish", "ice", 5, -2));
        desk.accept(new Consignment("Dyke Dairy", "butter", 12, -18));
        return desk;
    }

    public static void main(String[] args) throws IOException {
        DispatchDesk desk = desk();
        same("lorry takes what it can", 33, desk.loadLorry("Marsh Fish", "SM 101"));
        same("ship takes all frozen goods", 50, desk.loadShip("Marsh Fish", "Heron"));
        same("nobody's goods", 0, desk.loadLorry("Nobody", "SM 102"));
        same("what was handed out", 83, desk.getHandedOut());
        same("journal", "[lorry SM 101: 33 pallets of Marsh Fish, ship Heron: 50 pallets of Marsh Fish,"
            + " lorry SM 102: 0 pallets of Nobody]", desk.getJournal().toString());
        same("pallets by owner", "Dyke Dairy 12\nMarsh Fish 55\n", desk.palletsByOwner());
        same("pallets by goods", "butter 12\nherring 20\nice 5\nshrimps 30\n", desk.palletsByGoods());
        same("warmest", -175, RoomLog.warmest(new StringReader(LOG), "north"));
        same("coldest", -30, RoomLog.coldest(new StringReader(LOG), "south"));
        same("no readings", Integer.MIN_VALUE, RoomLog.warmest(new StringReader(LOG), "west"));
    }
}
