"""What redirects are made from, where that grows with the site: tables on disk instead of memory."""
