"""Host profiles: what the new host imports, each a TOML file that any user can write."""
