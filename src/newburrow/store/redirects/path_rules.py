"""The answers as rules by path and one parameter, where a server compares paths without regard to case."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator

_HERE = "host = ? AND raw IS NOT NULL"  # the rules that can be written
_MERGED = "(instr(upper(old), '%2F') OR instr(substr(old, 9), '//'))"

# Old address, its host, a parameter, the word that is compared (None: cannot be written), the target.
PathRule = tuple[str, str, str, bytes | None, str]


class PathRules:
    """Rules in the order of the answers, and the words that differ in letter case alone."""

    def __init__(self, rules: Iterable[PathRule]) -> None:
        self._db = sqlite3.connect("")
        self._db.execute(
            "CREATE TABLE cased (folded BLOB, raw BLOB, PRIMARY KEY (folded, raw)) WITHOUT ROWID"
        )
        self._db.execute(
            "CREATE TABLE rule (old TEXT, host TEXT, parameter TEXT, raw BLOB, target TEXT)"
        )
        self._db.executemany("INSERT INTO rule VALUES (?, ?, ?, ?, ?)", rules)
        self.has_case = False

    def add_cased(self, words: Iterable[tuple[bytes, bytes]]) -> None:
        """Add words that hold capital letters, in small letters and as they are."""
        self._db.executemany("INSERT OR IGNORE INTO cased VALUES (?, ?)", words)
        found = self._db.execute("SELECT 1 FROM cased LIMIT 1").fetchone()
        self.has_case = found is not None

    def add_uncased(self, words: Iterable[tuple[bytes]]) -> None:
        """Add words without capital letters; kept are those that another word differs from in case alone."""
        self._db.executemany(
            "INSERT OR IGNORE INTO cased "
            "SELECT ?1, ?1 WHERE EXISTS (SELECT 1 FROM cased WHERE folded = ?1)",
            words,
        )

    def case_decides(self, raw: bytes) -> bool:
        """Whether another word differs from this one only in letter case."""
        if not self.has_case:
            return False
        row = self._db.execute("SELECT count(*) FROM cased WHERE folded = ?", (raw.lower(),))
        return int(row.fetchone()[0]) > 1

    def leave_out_merged(self) -> None:
        """An encoded or doubled slash counts as one slash: where that is another address, the other one counts."""
        if self._db.execute(f"SELECT 1 FROM rule WHERE {_MERGED} LIMIT 1").fetchone():
            self._db.execute("CREATE INDEX rule_raw ON rule (raw)")
            self._db.execute(
                f"UPDATE rule SET raw = NULL WHERE {_MERGED} AND EXISTS (SELECT 1 FROM rule o "
                "WHERE o.raw = rule.raw AND o.host = rule.host AND o.rowid != rule.rowid)"
            )

    def main_host(self) -> str:
        """The host that most rules are for; empty where there are none."""
        row = self._db.execute(
            "SELECT host FROM rule GROUP BY host ORDER BY count(*) DESC, host LIMIT 1"
        ).fetchone()
        return str(row[0]) if row else ""

    def size(self, host: str) -> tuple[int, int]:
        """How many rules can be written for a host, and the bytes of the longest word."""
        row = self._db.execute(
            f"SELECT count(*), max(length(raw)) FROM rule WHERE {_HERE}", (host,)
        ).fetchone()
        return row[0], row[1] or 0

    def parameters(self, host: str) -> list[str]:
        """The parameters that rules of a host look at, in order of the alphabet."""
        rows = self._db.execute(
            f"SELECT DISTINCT parameter FROM rule WHERE {_HERE} ORDER BY parameter", (host,)
        )
        return [parameter for (parameter,) in rows if parameter]

    def of_parameter(self, host: str, parameter: str) -> Iterator[tuple[bytes, str]]:
        """Word and target of the rules of a host that look at a parameter; empty for those by path alone."""
        return self._db.execute(
            f"SELECT raw, target FROM rule WHERE {_HERE} AND parameter = ? ORDER BY rowid",
            (host, parameter),
        )

    def doubtful(self, host: str, long: int) -> Iterator[tuple[str, str, bytes | None, str]]:
        """Old address, host, word and target of rules that may not be written.

        Those are without a word, of another host, or longer than `long` bytes.
        """
        return self._db.execute(
            "SELECT old, host, raw, target FROM rule WHERE raw IS NULL OR host != ? "
            "OR max(length(raw), length(target)) > ? ORDER BY rowid",
            (host, long),
        )
