"""Old addresses that are known from elsewhere: redirects, sitemaps, lists and logs."""
