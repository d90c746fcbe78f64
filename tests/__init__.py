"""The tests. No test is timed, and the examples are the same in every run, so that a failure is one of the code."""

from hypothesis import settings

settings.register_profile("newburrow", deadline=None, derandomize=True, database=None)
settings.load_profile("newburrow")
