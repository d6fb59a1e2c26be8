import contextlib
import io
import unittest

from harbour import fees
from tests.data import calls


class FeesTest(unittest.TestCase):
    def setUp(self):
        self.calls = calls()

    def test_pilotage(self):
        self.assertEqual(fees.pilotage_fee([]), 0.0)
        self.assertEqual(fees.pilotage_fee(self.calls[:1]), 756.0)
        self.assertEqual(fees.pilotage_fee(self.calls), 4984.0)

    def test_towage(self):
        self.assertEqual(fees.towage_fee([]), 0.0)
        self.assertEqual(fees.towage_fee(self.calls[:1]), 1260.0)
        self.assertEqual(fees.towage_fee(self.calls), 8290.0)

    def test_berth(self):
        self.assertEqual(fees.berth_dues(self.calls[0]), 72.0)
        self.assertEqual(fees.berth_dues(self.calls[1]), 1580.0)

    def test_crane(self):
        crane = self.calls[1].berth.cranes[0]
        self.assertEqual(fees.crane_dues(self.calls[0], crane), 0.0)
        self.assertEqual(fees.crane_dues(self.calls[1], crane), 200.0)

    def test_waste(self):
        self.assertEqual(fees.waste_dues(self.calls[2], 6), 25.8)
        with self.assertRaises(ValueError):
            fees.waste_dues(self.calls[2], -1)

    def test_lists(self):
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            fees.first_discount(self.calls)
            fees.first_surcharge(self.calls)
        self.assertEqual(out.getvalue(), "")

    def test_invoice(self):
        lines = fees.invoice(self.calls[1], 20, self.calls[1].berth.cranes, "12 May")
        self.assertEqual(lines[0], "SALTMARSH HARBOUR OFFICE")
        self.assertIn("Total                  15092.46", lines)
        self.assertIn("Dangerous cargo: pay before leaving.", lines)
        self.assertEqual(len(lines), 21)
        small = fees.invoice(self.calls[0], 4, [], "12 May")
        self.assertEqual(len(small), 16)
