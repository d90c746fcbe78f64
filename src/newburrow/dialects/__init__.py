"""Dialects: how platforms put their content into open formats, each a TOML file that any user can write."""
