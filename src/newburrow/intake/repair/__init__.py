"""Mending XML that is not well-formed: every repair is told, and what was right is not altered by one byte."""
