import unittest

from harbour.desk import gauge_board, keeper_at, watch_lines

ROTA = [("Rook", (1, 2)), ("Teal", (3,))]
READINGS = {"north": [2.9, 3.0, 3.4, 3.9, 4.1], "south": [1.2, 1.4], "lock": [3.3, 3.3, 3.2]}


class DeskTest(unittest.TestCase):
    def test_keepers(self):
        self.assertEqual(keeper_at(ROTA, 5), "Rook")
        self.assertEqual(keeper_at(ROTA, 12), "Teal")
        self.assertEqual(keeper_at(ROTA, 23), "nobody")

    def test_watches(self):
        self.assertEqual(watch_lines(ROTA, [4, 13]), ["04:00 Rook, until 06:00", "13:00 Teal, until 18:00"])

    def test_gauges(self):
        board = gauge_board(READINGS)
        self.assertEqual(board[0], "1! north   3.60 m")
        self.assertEqual(board[1], "  north stands 0.40 m over high water")
        self.assertEqual(board[2], "2  south   1.30 m")
        self.assertEqual(len(board), 5)
