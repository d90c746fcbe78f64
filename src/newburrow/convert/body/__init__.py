"""Bodies: links, embeds, macros, and what the new host does not accept."""
