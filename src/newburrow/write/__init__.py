"""Where output goes: what the new host takes, and what is written beside it."""
