"""Where everything goes: decided for all objects before the first byte is written."""
