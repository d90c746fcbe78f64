"""Where output goes: what the new host imports, and what is written beside it."""
