package port.coldstore;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.Reader;

/** Reads what the thermometers of the cold rooms wrote down, a line a reading. */
final class RoomLog {
    private RoomLog() {
    }

    /** The warmest reading of a room, in tenths of a degree. */
    static int warmest(Reader log, String room) throws IOException {
        BufferedReader in = new BufferedReader(log);
        int found = Integer.MIN_VALUE;
        for (String line = in.readLine(); line != null; line = in.readLine()) {
            String[] parts = line.split(" ");
            if (parts.length < 2 || !parts[0].equals(room)) {
                continue;
            }
            found = Math.max(found, Integer.parseInt(parts[1]));
        }
        return found;
    }

    /** The coldest reading of a room, in tenths of a degree. */
    static int coldest(Reader log, String room) throws IOException {
        BufferedReader in = new BufferedReader(log);
        int found = Integer.MAX_VALUE;
        for (String line = in.readLine(); line != null; line = in.readLine()) {
            String[] parts = line.split(" ");
            if (parts.length < 2 || !parts[0].equals(room)) {
                continue;
            }
            found = Math.min(found, Integer.parseInt(parts[1]));
        }
        return found;
    }
}
