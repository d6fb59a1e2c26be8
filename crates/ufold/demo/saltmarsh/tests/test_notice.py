"""The tests of the public notice page, which is written in PHP."""

import pathlib
import subprocess
import unittest

ROOT = pathlib.Path(__file__).parent.parent


class NoticeTest(unittest.TestCase):
    def test_notice(self):
        run = ["php", "notice/test_notice.php"]
        out = subprocess.run(run, check=True, capture_output=True, text=True, timeout=60, cwd=ROOT).stdout
        self.assertEqual(len(out.splitlines()), 7)
        self.assertTrue(all(line.endswith(" ok") for line in out.splitlines()))


if __name__ == "__main__":
    unittest.main()
