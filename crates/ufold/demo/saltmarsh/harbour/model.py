"""Ships, berths, cranes and calls."""

from dataclasses import dataclass, field


@dataclass
class Ship:
    name: str
    length: float
    draught: float
    tonnage: int
    dangerous: bool = False


@dataclass
class Berth:
    number: int
    length: float
    depth: float
    cranes: list = field(default_factory=list)


@dataclass
class Crane:
    number: int
    reach: float
    capacity: float
    hours: float = 0.0


@dataclass
class Call:
    """A ship's stay: from and to in hours since midnight."""

    ship: Ship
    berth: Berth
    arrives: float
    leaves: float

    @property
    def hours(self):
        return self.leaves - self.arrives
