"""The tests of the tide display on the quay, which is written in Lua."""

import pathlib
import shutil
import subprocess
import unittest

ROOT = pathlib.Path(__file__).parent.parent


class DisplayTest(unittest.TestCase):
    def test_display(self):
        lua = shutil.which("lua5.4") or "lua"
        run = [lua, "display/test_display.lua"]
        out = subprocess.run(run, check=True, capture_output=True, text=True, timeout=60, cwd=ROOT).stdout
        self.assertEqual(len(out.splitlines()), 10)
        self.assertTrue(all(line.endswith(" ok") for line in out.splitlines()))


if __name__ == "__main__":
    unittest.main()
