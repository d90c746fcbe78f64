"""Runs all tests: `python -m tests`, or `python -m tests NAME...` for some."""

import sys
import unittest
from pathlib import Path


def main() -> int:
    loader = unittest.TestLoader()
    top = Path(__file__).parent
    suite = (
        loader.loadTestsFromNames(sys.argv[1:])
        if sys.argv[1:]
        else loader.discover(str(top), top_level_dir=str(top.parent))
    )
    result = unittest.TextTestRunner(verbosity=1, warnings="default").run(suite)
    failed = len({str(test) for test, _ in [*result.failures, *result.errors]}) + len(result.unexpectedSuccesses)
    print(f"{result.testsRun - failed - len(result.skipped)} passed, {failed} failed, {len(result.skipped)} skipped")
    return 0 if result.wasSuccessful() and result.testsRun and not result.skipped else 1


if __name__ == "__main__":
    sys.exit(main())
