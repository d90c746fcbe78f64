"""One module for each open format, its reader and its writer side by side. See `base` for how to add one."""
