"""A first dialect, drafted from what an unknown export shows."""
