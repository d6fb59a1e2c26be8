import unittest

from harbour.records import BerthRecord, PermitRecord, ShipRecord, archive


class RecordsTest(unittest.TestCase):
    def test_records_of_all_kinds_stand_in_one_archive(self):
        records = [ShipRecord(12, "Marram", 840), PermitRecord(3, "crane 2", 1998), BerthRecord(7, "Old Sluice", "east")]
        self.assertEqual(
            archive(records),
            ["0003 crane 2, until 1998", "0012 Marram, 840 t", "0007 Old Sluice, quay east"],
        )

    def test_a_label_has_the_number_first(self):
        self.assertEqual(BerthRecord(7, "Old Sluice", "east").label(), "0007 Old Sluice")


if __name__ == "__main__":
    unittest.main()
