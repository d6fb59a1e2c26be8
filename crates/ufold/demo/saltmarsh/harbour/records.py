"""What the office keeps of berths, ships and permits when they are closed."""


class BerthRecord:
    """A berth that is given up."""

    def __init__(self, number, name, quay):
        self.number = number
        self.name = name
        self.quay = quay

    def label(self):
        return "%04d %s" % (self.number, self.name)

    def sort_key(self):
        return (self.name.lower(), self.number)

    def line(self):
        return "%s, quay %s" % (self.label(), self.quay)


class ShipRecord:
    """A ship that comes no more."""

    def __init__(self, number, name, tonnage):
        self.number = number
        self.name = name
        self.tonnage = tonnage

    def label(self):
        return "%04d %s" % (self.number, self.name)

    def sort_key(self):
        return (self.name.lower(), self.number)

    def line(self):
        return "%s, %d t" % (self.label(), self.tonnage)


class PermitRecord:
    """A permit that has ended."""

    def __init__(self, number, name, year):
        self.number = number
        self.name = name
        self.year = year

    def label(self):
        return "%04d %s" % (self.number, self.name)

    def sort_key(self):
        return (self.name.lower(), self.number)

    def line(self):
        return "%s, until %d" % (self.label(), self.year)


def archive(records):
    return [record.line() for record in sorted(records, key=lambda record: record.sort_key())]
