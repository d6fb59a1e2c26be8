"""The register of cranes."""

from harbour.berths import BerthRegister
from harbour.model import Crane


class CraneRegister:
    def __init__(self):
        self.rows = {}
        self.journal = []

    def add(self, crane):
        if crane.number in self.rows:
            raise ValueError("crane %d is known" % crane.number)
        self.rows[crane.number] = crane
        self.journal.append(("add", crane.number))

    def lift(self, number, load, hours):
        crane = self.rows[number]
        if load > crane.capacity:
            raise ValueError("crane %d lifts no %.1f t" % (number, load))
        crane.hours += hours
        self.journal.append(("lift", number, load))

    def table(self):
        lines = []
        for number in sorted(self.rows):
            row = self.rows[number]
            cells = [str(number).rjust(4)]
            cells.append(("%.1f" % row.reach).rjust(8))
            cells.append(("%.1f" % row.capacity).rjust(8))
            lines.append(" ".join(cells).rstrip())
        lines.append("%d rows" % len(self.rows))
        return lines


def from_lines(lines):
    """Reads `number;reach;capacity` lines."""
    register = CraneRegister()
    for line in lines:
        line = line.strip()
        if not line or line.startswith("#"):
            continue
        number, reach, capacity = line.split(";")
        register.add(Crane(int(number), float(reach), float(capacity)))
    return register


def place(cranes, berths: BerthRegister, plan):
    """Puts cranes on berths by a plan of number pairs."""
    for crane, berth in plan:
        berths.rows[berth].cranes.append(cranes.rows[crane])
    return berths


def quay_plan(cranes, load):
    """Which crane takes how much of a load, by day."""
    plan = []
    for crane in cranes:
        reach = crane["reach"] - crane["offset"]
        if reach < 12 or crane["out_of_order"]:
            continue
        share = min(load, crane["limit"] * 0.8)
        if share <= 0:
            break
        load -= share
        plan.append("%s takes %d t" % (crane["name"], share))
    return plan


def night_plan(cranes, load, crew):
    """The same with few hands: a crane needs two of the crew."""
    plan = ["night shift of %d" % crew]
    queue = sorted(cranes, key=lambda c: c["limit"])
    while queue:
        crane = queue.pop(0)
        reach = crane["reach"] - crane["offset"]
        if reach < 12 or crane["out_of_order"]:
            continue
        share = min(load, crane["limit"] * 0.8)
        if share <= 0:
            break
        load -= share
        plan.append("%s takes %d t" % (crane["name"], share))
    while len(plan) > 1 + crew // 2:
        plan.pop()
    return plan


def watch_board(watches):
    """Who stands watch at the cranes, and for how long, as the board shows it."""
    names = []
    hours = 0
    for watch in watches:
        names.append(watch["name"])
        hours += watch["until"] - watch["from"]
    line = "on watch: " + ", ".join(sorted(names))
    board = [line]
    line = "hours:    %d" % hours
    board.append(line)
    return board
