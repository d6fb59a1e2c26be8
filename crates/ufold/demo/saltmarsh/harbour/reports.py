"""The day's reports."""

from harbour import tides
from harbour.fees import berth_dues


def arrivals(calls):
    """Who arrives, in order of time."""
    lines = []
    for call in sorted(calls, key=lambda c: c.arrives):
        name = call.ship.name.upper()[:18]
        clock = "%02d:%02d" % (int(call.arrives) % 24, round(call.arrives % 1 * 60))
        lines.append("%s  %-18s  berth %d" % (clock, name, call.berth.number))
    if not lines:
        lines.append("no arrivals")
    return lines


def departures(calls):
    """Who leaves, in order of time."""
    lines = []
    for call in sorted(calls, key=lambda c: c.leaves):
        name = call.ship.name.upper()[:18]
        clock = "%02d:%02d" % (int(call.leaves) % 24, round(call.leaves % 1 * 60))
        lines.append("%s  %-18s  berth %d" % (clock, name, call.berth.number))
    if not lines:
        lines.append("no departures")
    return lines


def dues_report(calls):
    rows = []
    for call in calls:
        rows.append((call.ship.name, berth_dues(call)))
    rows.sort(key=lambda row: (-row[1], row[0]))
    width = max([len(name) for name, _ in rows] or [0])
    lines = [name.ljust(width) + "  " + "%9.2f" % value for name, value in rows]
    total = sum(value for _, value in rows)
    return lines, total


def tonnage_report(calls):
    rows = []
    for call in calls:
        if call.ship.tonnage:
            rows.append((call.ship.name, call.ship.tonnage))
    rows.sort(key=lambda row: (-row[1], row[0]))
    width = max([len(name) for name, _ in rows] or [0])
    lines = [name.ljust(width) + "  " + "%9.2f" % value for name, value in rows]
    total = sum(value for _, value in rows)
    return lines, total


def tide_report(mean, swing):
    lines = ["Tides"]
    for hour, height in tides.high_waters(mean, swing, 24):
        lines.append("high %05.2f  %.2f m" % (hour, height))
    for hour, height in tides.low_waters(mean, swing, 24):
        lines.append("low  %05.2f  %.2f m" % (hour, height))
    return lines
