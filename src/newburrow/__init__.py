"""New Burrow moves a blog, a wiki or a course from one host to another."""

__version__ = "0.1.0"
