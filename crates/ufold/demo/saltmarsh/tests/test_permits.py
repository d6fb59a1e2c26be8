"""The tests of the permit desk, which is written in C#."""

import pathlib
import subprocess
import tempfile
import unittest

ROOT = pathlib.Path(__file__).parent.parent


class PermitsTest(unittest.TestCase):
    def test_permits(self):
        sources = sorted(str(p) for p in (ROOT / "permits").glob("*.cs"))
        with tempfile.TemporaryDirectory() as folder:
            built = str(pathlib.Path(folder) / "permits.exe")
            subprocess.run(["mcs", "-out:" + built, *sources], check=True, timeout=60)
            out = subprocess.run(["mono", built], check=True, capture_output=True, text=True, timeout=60).stdout
        self.assertEqual(len(out.splitlines()), 6)
        self.assertTrue(all(line.endswith(" ok") for line in out.splitlines()))


if __name__ == "__main__":
    unittest.main()
