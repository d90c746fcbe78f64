"""Which facts a dialect can take from a plain record, by what the record is."""

from __future__ import annotations

FACTS: dict[str, tuple[str, ...]] = {
    "site": ("title", "address", "language", "zone", "generator", "description", "front_page"),
    "author": ("id", "login", "name", "email", "address", "about"),
    "term": ("id", "vocabulary", "slug", "name", "parent", "description"),
    "entry": (
        "id", "kind", "status", "title", "slug", "permalink", "guid", "other_addresses", "published", "updated",
        "author", "summary", "body", "markup", "terms", "parent", "position", "language", "lead_picture", "enclosures",
        "folder",
        "base",
    ),
    "comment": (
        "id", "entry", "parent", "kind", "status", "author_name", "email", "address", "published", "body", "markup",
    ),
    "media": (
        "id", "address", "other_addresses", "path", "media_type", "title", "alternative_text", "caption", "entry",
    ),
    "menu": ("id", "menu", "label", "target", "parent", "position"),
    "relation": ("entry", "author", "term", "vocabulary", "lead_picture", "parent", "name", "value"),
}  # fmt: skip
