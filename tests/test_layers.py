"""The house: folders in their order, no import upwards, no circle, no module that imports too much."""

import ast
import unittest
from collections import defaultdict
from functools import lru_cache
from pathlib import Path

import newburrow

TOP = Path(newburrow.__file__).parent

# From what imports nothing of ours to what may import everything: the order of the design. The demo
# site is data for the commands, so it stands before them.
FOLDERS = (
    "model", "core", "intake", "markup", "dialects", "formats", "store", "hosts", "assess", "decide", "convert",
    "write", "redirects", "verify", "report", "demo", "commands", "cli",
)  # fmt: skip
MOST_FOLDERS = 20
MOST_IMPORTS = 20
LONGEST_CHAIN = 12
MOST_LINES = 450  # that are not blank


@lru_cache(maxsize=1)
def modules() -> dict[str, Path]:
    """Every module by its name; a package by its own."""
    found = {}
    for path in sorted(TOP.rglob("*.py")):
        parts = path.relative_to(TOP.parent).with_suffix("").parts
        found[".".join(parts[:-1] if parts[-1] == "__init__" else parts)] = path
    return found


@lru_cache(maxsize=1)
def imports() -> dict[str, set[str]]:
    """What each module imports of ours, also within functions and for the types alone."""
    found: dict[str, set[str]] = defaultdict(set)
    known = modules()
    for module, path in known.items():
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if (
                isinstance(node, ast.ImportFrom)
                and (node.module or "").split(".")[0] == "newburrow"
            ):
                named = [f"{node.module}.{alias.name}" for alias in node.names]
                found[module] |= {name if name in known else str(node.module) for name in named}
            elif isinstance(node, ast.Import):
                found[module] |= {alias.name for alias in node.names if alias.name in known}
        found[module] -= {module, "newburrow"}
    return found


def folder_of(module: str) -> str:
    return module.split(".")[1]


class House(unittest.TestCase):
    def test_nothing_lies_flat_beside_the_folders(self) -> None:
        flat = {path.name for path in TOP.glob("*.py")}
        self.assertEqual(flat, {"__init__.py", "__main__.py"})
        folders = {path.parent.name for path in TOP.glob("*/__init__.py")}
        self.assertEqual(folders, set(FOLDERS))
        self.assertLessEqual(len(folders), MOST_FOLDERS)

    def test_no_arrow_points_upwards(self) -> None:
        wrong = [
            f"{module} imports {name}"
            for module, names in imports().items()
            for name in names
            if "." in module and folder_of(module) != "__main__"
            and FOLDERS.index(folder_of(name)) > FOLDERS.index(folder_of(module))
        ]  # fmt: skip
        self.assertEqual(wrong, [])

    def test_no_circle_and_no_long_chain(self) -> None:
        lengths: dict[str, int] = {}

        def length(module: str, path: tuple[str, ...]) -> int:
            self.assertNotIn(module, path, " -> ".join((*path, module)))
            if module not in lengths:
                below = [
                    length(name, (*path, module)) for name in sorted(imports().get(module, ()))
                ]
                lengths[module] = 1 + max(below, default=0)
            return lengths[module]

        longest = max(modules(), key=lambda module: length(module, ()))
        self.assertLessEqual(lengths[longest], LONGEST_CHAIN, longest)

    def test_no_module_imports_too_much(self) -> None:
        wrong = {
            module: len(names)
            for module, names in imports().items()
            if len(names) > MOST_IMPORTS
        }
        self.assertEqual(wrong, {})

    def test_no_module_is_too_long(self) -> None:
        long = {
            module: lines
            for module, path in modules().items()
            if (
                lines := sum(
                    bool(line.strip()) for line in path.read_text("utf-8").splitlines()
                )
            )
            > MOST_LINES
        }
        self.assertEqual(long, {})

    def test_model_and_core_import_nothing_above_them(self) -> None:
        for module, names in imports().items():
            if module.startswith("newburrow.model"):
                self.assertEqual({folder_of(name) for name in names} - {"model"}, set(), module)
            elif module.startswith("newburrow.core"):
                self.assertEqual(
                    {folder_of(name) for name in names} - {"model", "core"}, set(), module
                )

    def test_only_the_command_line_prints(self) -> None:
        for path in TOP.rglob("*.py"):
            if path.relative_to(TOP).parts[0] != "cli":
                self.assertNotRegex(path.read_text("utf-8"), r"(?<![\w.])print\(", str(path))

    def test_sql_stands_in_the_store_alone(self) -> None:
        sql = r"\b(SELECT|INSERT|UPDATE|DELETE|CREATE (TABLE|INDEX))\b"
        for path in TOP.rglob("*.py"):
            if path.relative_to(TOP).parts[0] != "store":
                self.assertNotRegex(path.read_text("utf-8"), sql, str(path))

    def test_no_stand_in_is_named_in_code(self) -> None:
        formats = {
            path.name.removesuffix(".py") for path in (TOP / "formats").iterdir()
        }  # a bag is no platform
        names = {
            path.stem
            for folder in ("hosts", "dialects")
            for path in (TOP / folder).glob("*.toml")
        } - formats
        self.assertGreater(len(names), 2)
        for path in TOP.rglob("*.py"):
            for name in names:
                if path.relative_to(TOP).parts[0] != "cli":  # a help text may show an example
                    self.assertNotIn(name, path.read_text("utf-8").lower(), path)
