"""Opening what the administrator has. This package alone opens exports; formats are handed streams."""
