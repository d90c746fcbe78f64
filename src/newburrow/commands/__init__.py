"""One function for each command, callable from Python without a terminal."""
