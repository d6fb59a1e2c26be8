"""The notebook of the tide gauges, its cells run one after the other."""

import contextlib
import io
import json
import pathlib
import unittest

NOTEBOOK = pathlib.Path(__file__).parent.parent / "gauges.ipynb"


class GaugesTest(unittest.TestCase):
    def test_cells(self):
        space = {}
        printed = io.StringIO()
        with contextlib.redirect_stdout(printed):
            for cell in json.loads(NOTEBOOK.read_text())["cells"]:
                if cell["cell_type"] == "code":
                    lines = [line for line in cell["source"] if not line.startswith("%")]
                    exec("".join(lines), space)
        self.assertEqual(printed.getvalue(), "north pier: 6 readings\nsouth quay: 6 readings\nwest lock: 6 readings\n")
        self.assertEqual(space["north"][0], (0, 3.0))
        self.assertEqual(space["south"][-1], (18, -0.61))
        self.assertAlmostEqual(space["off"], 0.2225, places=3)


if __name__ == "__main__":
    unittest.main()
