"""The duty desk: who keeps the watch, and what the gauges in the basins say."""

WATCH_HOURS = 6
HIGH_WATER = 3.2


def watch_of(hour):
    """Number of the watch in which an hour of the day lies."""
    return hour % 24 // WATCH_HOURS + 1


def next_watch(hour):
    """Hour at which the next watch begins."""
    begun = hour % 24 // WATCH_HOURS * WATCH_HOURS
    return (begun + WATCH_HOURS) % 24


def keeper_at(rota, hour):
    watch = watch_of(hour)
    for keeper, watches in rota:
        if watch in watches:
            return keeper
    return "nobody"


def watch_lines(rota, hours):
    lines = []
    for hour in hours:
        keeper = keeper_at(rota, hour)
        until = next_watch(hour)
        lines.append("%02d:00 %s, until %02d:00" % (hour, keeper, until))
    return lines


def mean_level(levels):
    """Mean of the last four readings, in metres."""
    last = levels[-4:]
    return sum(last) / len(last)


def level_line(number, basin, level):
    mark = "!" if level > HIGH_WATER else " "
    return "%d%s %-6s %5.2f m" % (number, mark, basin, level)


def high_line(basin, level):
    over = level - HIGH_WATER
    return "  %s stands %.2f m over high water" % (basin, over)


def gauge_board(readings):
    """A line for each gauge, and one more under those that stand high."""
    board = []
    level1 = mean_level(readings["north"])
    board.append(level_line(1, "north", level1))
    if level1 > HIGH_WATER:
        board.append(high_line("north", level1))
    level2 = mean_level(readings["south"])
    board.append(level_line(2, "south", level2))
    if level2 > HIGH_WATER:
        board.append(high_line("south", level2))
    level3 = mean_level(readings["lock"])
    board.append(level_line(3, "lock", level3))
    if level3 > HIGH_WATER:
        board.append(high_line("lock", level3))
    return board
