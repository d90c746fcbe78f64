"""Host profiles: what the new host takes, each a TOML file that any user can write."""
