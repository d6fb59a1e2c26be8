"""The register of berths."""

from harbour.model import Berth


class BerthRegister:
    def __init__(self):
        self.rows = {}
        self.journal = []
        self.changes = 0

    def add(self, berth):
        if berth.number in self.rows:
            raise ValueError("berth %d is known" % berth.number)
        self.rows[berth.number] = berth
        self.journal.append(("add", berth.number))

    def close(self, number, why):
        row = self.rows.get(number)
        if row is None:
            raise KeyError("no berth %d" % number)
        self.journal.append(("close", number, why))
        self.journal.sort(key=lambda entry: entry[1])
        self.changes += 1
        del self.rows[number]
        return row

    def deepen(self, number, by):
        row = self.rows.get(number)
        if row is None:
            raise KeyError("no berth %d" % number)
        self.journal.append(("deepen", number, by))
        self.journal.sort(key=lambda entry: entry[1])
        self.changes += 1
        row.depth += by
        return row

    def lengthen(self, number, by):
        row = self.rows.get(number)
        if row is None:
            raise KeyError("no berth %d" % number)
        self.journal.append(("lengthen", number, by))
        self.journal.sort(key=lambda entry: entry[1])
        self.changes += 1
        row.length += by
        return row

    def table(self):
        lines = []
        for number in sorted(self.rows):
            row = self.rows[number]
            cells = [str(number).rjust(4)]
            cells.append(("%.1f" % row.length).rjust(8))
            cells.append(("%.1f" % row.depth).rjust(8))
            lines.append(" ".join(cells).rstrip())
        lines.append("%d rows" % len(self.rows))
        return lines


def from_lines(lines):
    """Reads `number;length;depth` lines."""
    register = BerthRegister()
    for line in lines:
        line = line.strip()
        if not line or line.startswith("#"):
            continue
        number, length, depth = line.split(";")
        register.add(Berth(int(number), float(length), float(depth)))
    return register
