"""The answers as rules by path and parameters, where a server compares paths without regard to case."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator, Sequence

_MERGED = "(instr(upper(old), '%2F') OR instr(substr(old, 9), '//'))"

# Old address, its set of parameters, the word that is compared (None: cannot be written), an expression that is
# compared instead (or empty), the target.
PathRule = tuple[str, str, bytes | None, str, str]


class PathRules:
    """Rules in the order of the answers, and the words that differ in letter case alone."""

    def __init__(self, rules: Iterable[PathRule]) -> None:
        self._db = sqlite3.connect("")
        self._db.execute(
            "CREATE TABLE cased (folded BLOB, raw BLOB, PRIMARY KEY (folded, raw)) WITHOUT ROWID"
        )
        self._db.execute(
            "CREATE TABLE rule (old TEXT, parameter TEXT, raw BLOB, pattern TEXT, target TEXT)"
        )
        self.add(rules)
        self.has_case = False

    def add(self, rules: Iterable[PathRule]) -> None:
        """Add rules, after those that are there."""
        self._db.executemany("INSERT INTO rule VALUES (?, ?, ?, ?, ?)", rules)

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
                "WHERE o.raw = rule.raw AND o.rowid != rule.rowid)"
            )

    def parameters(self) -> list[str]:
        """The sets of parameters that rules look at, in order of the alphabet."""
        rows = self._db.execute(
            "SELECT DISTINCT parameter FROM rule WHERE raw IS NOT NULL ORDER BY parameter"
        )
        return [parameter for (parameter,) in rows if parameter]

    def join(self, sets: Sequence[str], whole: str) -> None:
        """Let the rules of these sets be in the set `whole`."""
        self._db.executemany(
            "UPDATE rule SET parameter = ? WHERE parameter = ?",
            ((whole, parameters) for parameters in sets),
        )

    def of_parameter(self, parameter: str) -> Iterator[tuple[bytes, str, str]]:
        """Word, expression and target of the rules that look at a set of parameters; empty: those by path alone.

        The expression is empty where the word is compared as it is.
        """
        return self._db.execute(
            "SELECT raw, pattern, target FROM rule "
            "WHERE raw IS NOT NULL AND parameter = ? ORDER BY rowid",
            (parameter,),
        )

    def doubtful(self, long: int) -> Iterator[tuple[str, bytes | None, str, str]]:
        """Old address, word, expression and target of rules that may not be written.

        Those are without a word, or longer than `long` bytes.
        """
        return self._db.execute(
            "SELECT old, raw, pattern, target FROM rule "
            "WHERE raw IS NULL OR max(length(raw), length(target), length(pattern)) > ? ORDER BY rowid",
            (long,),
        )
