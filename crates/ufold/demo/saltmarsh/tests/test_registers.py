import unittest

from harbour import berths, cranes


class RegisterTest(unittest.TestCase):
    def setUp(self):
        self.berths = berths.from_lines(["# berths", "1;120;6.5", "", "2;200;10.5"])
        self.cranes = cranes.from_lines(["7;30;40", "8;18;12.5", "# end"])

    def test_tables(self):
        self.assertEqual(self.berths.table(), ["   1    120.0      6.5", "   2    200.0     10.5", "2 rows"])
        self.assertEqual(self.cranes.table(), ["   7     30.0     40.0", "   8     18.0     12.5", "2 rows"])

    def test_changes(self):
        self.assertEqual(self.berths.deepen(1, 0.5).depth, 7.0)
        self.assertEqual(self.berths.lengthen(2, 10).length, 210.0)
        self.assertEqual(self.berths.close(1, "silt").number, 1)
        self.assertEqual(sorted(self.berths.rows), [2])
        self.assertEqual(len(self.berths.journal), 5)
        for change in (self.berths.deepen, self.berths.lengthen, self.berths.close):
            with self.assertRaises(KeyError):
                change(9, 1)

    def test_twice(self):
        with self.assertRaises(ValueError):
            self.berths.add(self.berths.rows[1])
        with self.assertRaises(ValueError):
            self.cranes.add(self.cranes.rows[7])

    def test_lift(self):
        self.cranes.lift(8, 10, 1.5)
        self.assertEqual(self.cranes.rows[8].hours, 1.5)
        with self.assertRaises(ValueError):
            self.cranes.lift(8, 13, 1)

    def test_watch_board(self):
        watches = [{"name": "Plover", "from": 6, "until": 14}, {"name": "Avocet", "from": 14, "until": 22}]
        self.assertEqual(cranes.watch_board(watches), ["on watch: Avocet, Plover", "hours:    16"])

    def test_place(self):
        cranes.place(self.cranes, self.berths, [(7, 2), (8, 2)])
        self.assertEqual([c.number for c in self.berths.rows[2].cranes], [7, 8])


class CranePlanTest(unittest.TestCase):
    CRANES = [
        {"name": "Heron", "reach": 30, "offset": 4, "limit": 20, "out_of_order": False},
        {"name": "Stilt", "reach": 14, "offset": 4, "limit": 40, "out_of_order": False},
        {"name": "Crake", "reach": 28, "offset": 2, "limit": 10, "out_of_order": False},
    ]

    def test_day(self):
        self.assertEqual(cranes.quay_plan(self.CRANES, 20), ["Heron takes 16 t", "Crake takes 4 t"])
        self.assertEqual(cranes.quay_plan(self.CRANES, 0), [])

    def test_night(self):
        plan = cranes.night_plan(self.CRANES, 20, 2)
        self.assertEqual(plan, ["night shift of 2", "Crake takes 8 t"])
