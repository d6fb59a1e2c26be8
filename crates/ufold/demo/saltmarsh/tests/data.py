"""Made-up ships and calls for the tests."""

from harbour.model import Berth, Call, Crane, Ship

HERON = Ship("Grey Heron", 92.0, 5.1, 4200)
TERN = Ship("Little Tern", 180.5, 9.4, 21500, dangerous=True)
PLOVER = Ship("Plover", 60.0, 3.2, 900)


def calls():
    north = Berth(1, 120.0, 6.5)
    south = Berth(2, 200.0, 10.5)
    south.cranes.append(Crane(7, 30.0, 40.0, 3.5))
    return [
        Call(HERON, north, 5.5, 17.25),
        Call(TERN, south, 21.0, 100.0),
        Call(PLOVER, north, 18.0, 23.75),
    ]
