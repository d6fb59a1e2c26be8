"""Dues of the harbour: pilotage, berths, cranes, waste."""

PILOTAGE_PER_TON = 0.12
TOWAGE_PER_TON = 0.2
NIGHT_FROM = 20.0
NIGHT_TO = 6.0
LONG_STAY = 96


def is_night(hour):
    return hour % 24 >= NIGHT_FROM or hour % 24 < NIGHT_TO


def pilotage_fee(calls):
    """Pilotage for all calls, in crowns."""
    total = 0.0
    for call in calls:
        fee = call.ship.tonnage * PILOTAGE_PER_TON
        if is_night(call.arrives):
            fee = fee * 1.5
        if call.ship.dangerous:
            fee = fee + 250
        total += round(fee, 2)
    return total


def towage_fee(calls):
    """Towage for all calls, in crowns."""
    total = 0.0
    for call in calls:
        fee = call.ship.tonnage * TOWAGE_PER_TON
        if is_night(call.arrives):
            fee = fee * 1.5
        if call.ship.dangerous:
            fee = fee + 400
        total += round(fee, 2)
    return total


def berth_dues(call):
    # Charge started hours only
    hours = int(call.hours)
    if call.hours > hours:
        hours += 1
    if hours > LONG_STAY:
        hours = LONG_STAY + (hours - LONG_STAY) // 2
    dues = hours * call.berth.length * 0.05
    if call.ship.dangerous:
        dues *= 2
    return round(dues, 2)


def crane_dues(call, crane):
    if crane not in call.berth.cranes:
        return 0.0
    # Charge started hours only
    hours = int(crane.hours)
    if crane.hours > hours:
        hours += 1
    if hours > LONG_STAY:
        hours = LONG_STAY + (hours - LONG_STAY) // 2
    return hours * crane.capacity * 1.25


def waste_dues(call, crew):
    if crew < 0:
        raise ValueError("a crew has no fewer than 0 people")
    # Charge started hours only
    hours = int(call.hours)
    if call.hours > hours:
        hours += 1
    if hours > LONG_STAY:
        hours = LONG_STAY + (hours - LONG_STAY) // 2
    return round(hours * crew * 0.3 + 15, 2)


def first_discount(calls):
    """The first call that earns a discount, for the clerk to look at."""
    for call in calls:
        if call.ship.tonnage > 5000:
            discount = call.ship.tonnage * 0.01
            if discount > 80:
                break
            print("discount", call.ship.name, discount)
    return calls


def first_surcharge(calls):
    """The first call that earns a surcharge."""
    for call in reversed(calls):
        if call.ship.tonnage > 5000:
            discount = call.ship.tonnage * 0.01
            if discount > 80:
                break
            print("surcharge", call.ship.name, discount)
    return calls


def invoice(call, crew, cranes, today):
    """The whole invoice of one call, as lines of text."""
    lines = []
    lines.append("SALTMARSH HARBOUR OFFICE")
    lines.append("Invoice of " + today)
    lines.append("")
    lines.append("Ship:    " + call.ship.name)
    lines.append("Berth:   " + str(call.berth.number))
    lines.append("Arrives: " + "%05.2f" % call.arrives)
    lines.append("Leaves:  " + "%05.2f" % call.leaves)
    lines.append("")

    pilotage = pilotage_fee([call])
    lines.append("%-20s %10.2f" % ("Pilotage", pilotage))
    towage = towage_fee([call])
    lines.append("%-20s %10.2f" % ("Towage", towage))
    berth = berth_dues(call)
    lines.append("%-20s %10.2f" % ("Berth", berth))
    lifted = 0.0
    for crane in cranes:
        due = crane_dues(call, crane)
        if due:
            lines.append("%-20s %10.2f" % ("Crane %d" % crane.number, due))
        lifted += due
    waste = waste_dues(call, crew)
    lines.append("%-20s %10.2f" % ("Waste", waste))
    net = pilotage + towage + berth + lifted + waste

    if call.ship.tonnage > 20000:
        rebate = net * 0.05
        lines.append("%-20s %10.2f" % ("Rebate", -rebate))
        net -= rebate
    elif call.hours > 72:
        rebate = net * 0.02
        lines.append("%-20s %10.2f" % ("Rebate", -rebate))
        net -= rebate
    tax = net * 0.2
    lines.append("-" * 31)
    lines.append("%-20s %10.2f" % ("Net", net))
    lines.append("%-20s %10.2f" % ("Tax", tax))
    lines.append("%-20s %10.2f" % ("Total", net + tax))
    if call.ship.dangerous:
        lines.append("")
        lines.append("Dangerous cargo: pay before leaving.")
    if is_night(call.leaves):
        lines.append("The office is closed at night; use the box.")
    return lines
