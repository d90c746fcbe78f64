import re
import signal
import threading
import time
import unittest
from collections.abc import Iterator

from newburrow.core.memory_limit import memory_limit
from newburrow.core.time_limit import TimeLimitReached, each_within, time_limit


class Limits(unittest.TestCase):
    def test_an_expression_is_stopped(self) -> None:
        with self.assertRaises(TimeLimitReached), time_limit(0.05):
            re.match(r"(a+)+$", "a" * 60 + "b")
        self.assertEqual(signal.getitimer(signal.ITIMER_REAL)[0], 0)

    def test_an_outer_limit_goes_on_to_count(self) -> None:
        with self.assertRaises(TimeLimitReached), time_limit(0.1):
            with time_limit(5):
                pass
            time.sleep(5)
        with time_limit(5), self.assertRaises(TimeLimitReached), time_limit(0.01):
            time.sleep(5)

    def test_each_of_several(self) -> None:
        self.assertEqual(list(each_within(range(3), 5)), [0, 1, 2])
        slow = (time.sleep(number) for number in (0, 0, 5))
        found = each_within(slow, 0.05)
        self.assertEqual([next(found), next(found)], [None, None])
        self.assertRaises(TimeLimitReached, next, found)

    def test_what_the_caller_takes_does_not_count(self) -> None:
        found = each_within(range(2), 0.05)
        next(found)
        time.sleep(0.2)
        self.assertEqual(list(found), [1])
        self.assertEqual(signal.getitimer(signal.ITIMER_REAL)[0], 0)

    def test_an_inner_limit_leaves_the_watch_on_each_item(self) -> None:
        def items() -> Iterator[int]:
            with time_limit(1):
                yield 1
            time.sleep(5)
            yield 2

        found = each_within(items(), 0.05)
        next(found)
        self.assertRaises(TimeLimitReached, next, found)

    def test_other_threads_are_left_alone(self) -> None:
        seen: list[int] = []

        def work() -> None:
            with time_limit(0.001):
                time.sleep(0.01)
                seen.append(1)

        thread = threading.Thread(target=work)
        thread.start()
        thread.join()
        self.assertEqual(seen, [1])

    def test_memory(self) -> None:
        with self.assertRaises(MemoryError), memory_limit(50_000_000):
            bytes(200_000_000)
        self.assertEqual(len(bytes(200_000_000)), 200_000_000)
