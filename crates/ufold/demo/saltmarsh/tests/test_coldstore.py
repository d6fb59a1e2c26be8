"""The tests of the cold store's dispatch desk, which is written in Java."""

import pathlib
import subprocess
import tempfile
import unittest

SOURCES = pathlib.Path(__file__).parent.parent / "coldstore" / "port" / "coldstore"


class ColdStoreTest(unittest.TestCase):
    def test_dispatch_desk(self):
        files = sorted(str(f) for f in SOURCES.glob("*.java"))
        with tempfile.TemporaryDirectory() as classes:
            # short programs are quicker without the optimizing compiler
            javac = ["javac", "-J-XX:TieredStopAtLevel=1", "-J-XX:+UseSerialGC", "-proc:none", "-d", classes]
            subprocess.run([*javac, *files], check=True, timeout=120)
            run = ["java", "-XX:TieredStopAtLevel=1", "-XX:+UseSerialGC", "-cp", classes, "port.coldstore.ColdStoreTest"]
            out = subprocess.run(run, check=True, capture_output=True, text=True, timeout=120).stdout
        self.assertEqual(len(out.splitlines()), 10)
        self.assertTrue(all(line.endswith(" ok") for line in out.splitlines()))


if __name__ == "__main__":
    unittest.main()
