"""One module for each server that redirects are written for. See `base` for how to add one."""
