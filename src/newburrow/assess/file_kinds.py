"""Which files of an export are content of the site, by their names, and which belong to the old host's software."""

from __future__ import annotations

from newburrow.core.file_names import without_query
from newburrow.model import Media

# Settings, databases, programs, themes, keys and what editors and systems leave behind.
_SOFTWARE = frozenset(
    """
    asp aspx bak bat cfg cgi class conf config crt css db dbf dll env erb exe ftl git gradle haml hbs htaccess
    htpasswd inc ini jar js json jsonl jsx key lck ldb less liquid lock log map mdb mjs mo mustache ndjson old
    orig p12 pem pfx php php3 php4 php5 phar phtml pid pl plist po pot properties ps1 py pyc rb rdb sass scss
    sh so sock sql sqlite sqlite3 swp tfstate tmp tmpl toml tpl ts tsx twig vbs vue wasm xml xsl yaml yml
    """.split()  # noqa: SIM905 (a list of one word a line would hide them)
)
_ARCHIVES = frozenset(("zip", "tar", "gz", "tgz", "bz2", "xz", "7z", "rar"))
_NAMES = frozenset(
    ("makefile", "dockerfile", "license", "readme", "changelog", "cname", "robots.txt")
)


def is_declared(media: Media) -> bool:
    """Whether the export itself tells of a file; of any other it only has the bytes."""
    return media.key.replace("file:", "", 1) != media.path


def is_content(media: Media) -> bool:
    """Whether a file is one that readers of the site were meant to find.

    Every file that the export tells of is. Of others, those that belong to software, and archives, which may
    be backups, are not: they may hold passwords.
    """
    if is_declared(media) or not media.path:
        return True
    name = without_query(media.path).rpartition("/")[2].lower()
    hidden = any(part.startswith(".") for part in media.path.split("/"))
    if "." in name:
        extension = name.rpartition(".")[2]
    else:
        extension = ""
    return not (hidden or name in _NAMES or extension in _SOFTWARE | _ARCHIVES)
