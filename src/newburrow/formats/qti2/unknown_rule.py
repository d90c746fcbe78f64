"""What is raised for rules of response processing that say more than answers can."""


class UnknownRule(Exception):
    """A rule is not one of those that are understood."""
