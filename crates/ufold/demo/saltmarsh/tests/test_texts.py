import unittest

from harbour import notices, reports, tides
from tests.data import calls

READINGS = [
    {"height": 1.0, "valid": True},
    {"height": 9.9, "valid": False},
    {"height": 4.0, "valid": True},
]


class NoticesTest(unittest.TestCase):
    def test_kinds(self):
        storm = notices.storm_notice(4, "wind  from the\nnorth", "noon")
        self.assertEqual(storm, "NOTICE 004 / STORM\n==================\nwind from the north.\nIn force until noon.")
        dredging = notices.dredging_notice(5, "a dredger.", "dusk")
        self.assertEqual(dredging.splitlines()[0], "NOTICE 005 / DREDGING")
        closure = notices.closure_notice(6, "basin " * 20, "May")
        self.assertEqual(len(closure.splitlines()), 6 - 1)

    def test_numbers(self):
        self.assertEqual(notices.archive(["a", " b\nc"]), ["001 a", "002 b\nc"])
        self.assertEqual(notices.current(["a"], 12), ["012* a"])


class ReportsTest(unittest.TestCase):
    def test_traffic(self):
        self.assertEqual(reports.arrivals([]), ["no arrivals"])
        self.assertEqual(reports.departures([]), ["no departures"])
        self.assertEqual(reports.arrivals(calls())[0], "05:30  GREY HERON          berth 1")
        self.assertEqual(reports.departures(calls())[-1], "04:00  LITTLE TERN         berth 2")

    def test_sums(self):
        lines, total = reports.dues_report(calls())
        self.assertEqual(lines[0], "Little Tern    1580.00")
        self.assertEqual(total, 1688.0)
        lines, total = reports.tonnage_report(calls())
        self.assertEqual(lines[-1], "Plover          900.00")
        self.assertEqual(total, 26600)

    def test_tides(self):
        self.assertEqual(len(reports.tide_report(3.0, 1.5)), 1 + 1 + 2)


class TidesTest(unittest.TestCase):
    def test_window(self):
        self.assertIsNone(tides.window(0.0, 0.1, 9.0, 5.0))
        self.assertEqual(tides.window(3.0, 1.5, 6.0, 5.0), (0.0, 23.75))

    def test_summaries(self):
        self.assertEqual(tides.spring_summary(READINGS), "springs: 1.00 to 4.00, mean 2.50")
        self.assertEqual(tides.neap_summary(READINGS), "neaps: 1.00 to 4.00, mean 2.50")
