"""Results kept by their bytes."""

import threading
import unittest

import numpy as np

from rezept.core.kept import kept


class KeptTest(unittest.TestCase):
    def made(self, most_bytes):
        calls = []

        @kept(most_bytes)
        def row(count, fill=0.0):
            calls.append(count)
            return np.full(count, fill)

        return row, calls

    def test_what_was_made_is_given_again(self):
        row, calls = self.made(10_000)
        self.assertIs(row(5), row(5))
        self.assertIsNot(row(5), row(5, fill=1.0))
        self.assertEqual(calls, [5, 5])

    def test_the_least_used_go_when_there_is_no_room(self):
        row, calls = self.made(3 * (800 + 128))
        for count in (100, 99, 98, 100, 97):
            row(count)
        # 99 was used longest ago; 100 was looked at since.
        calls.clear()
        for count in (100, 98, 97, 99):
            row(count)
        self.assertEqual(calls, [99])

    def test_one_that_is_larger_than_all_room_is_not_kept(self):
        row, calls = self.made(1000)
        row(10)
        for _ in range(2):
            self.assertEqual(len(row(1000)), 1000)
        row(10)
        self.assertEqual(calls, [10, 1000, 1000])

    def test_many_threads_leave_it_whole(self):
        row, _ = self.made(20_000)
        wrong = []

        def ask(seed):
            chance = np.random.default_rng(seed)
            for _ in range(300):
                count = int(chance.integers(1, 400))
                if len(row(count)) != count:
                    wrong.append(count)

        threads = [threading.Thread(target=ask, args=(seed,)) for seed in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(wrong, [])


if __name__ == "__main__":
    unittest.main()
