"""The layers of the design: what stands lower may be imported by what stands higher, never the other way."""

import ast
import unittest
from collections.abc import Iterator
from pathlib import Path

import newburrow

TOP = Path(newburrow.__file__).parent

# From what imports nothing of ours to what may import all.
LAYERS = (
    "model", "address", "problem", "patterns", "events", "processes", "tomlfile", "shelf", "csvfile", "registry", "scope", "words", "schema", "store", "newstore", "uniting", "rows", "journal", "intake", "formats", "markup", "dialects",
    "reading", "gathering", "describing", "halves", "filling", "finding", "hosts", "convert", "folder", "redirects", "assess", "report", "asking", "facts", "drafting", "checking", "holding", "knowing", "serving", "moving", "following", "redirecting", "advising", "surveying", "repairing", "keeping",
    "demo", "cli",
)  # fmt: skip


def layer_of(module: str) -> str:
    return module.split(".")[1]


def imports() -> Iterator[tuple[str, str]]:
    """Every import of ours: importing module, imported module."""
    for path in sorted(TOP.rglob("*.py")):
        parts = path.relative_to(TOP.parent).with_suffix("").parts
        module = ".".join(parts[:-1] if parts[-1] == "__init__" else parts)
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            names = []
            if isinstance(node, ast.ImportFrom) and node.module == "newburrow":
                names = [
                    f"newburrow.{alias.name}"
                    for alias in node.names
                    if not alias.name.startswith("__")
                ]
            elif isinstance(node, ast.ImportFrom) and (node.module or "").startswith(
                "newburrow."
            ):
                names = [
                    full if (TOP.parent / Path(*(full := f"{node.module}.{alias.name}").split("."))).with_suffix(".py").exists()
                    else node.module
                    for alias in node.names
                ]  # fmt: skip
            elif isinstance(node, ast.Import):
                names = [
                    alias.name for alias in node.names if alias.name.startswith("newburrow.")
                ]
            for name in names:
                yield module, name


class Layers(unittest.TestCase):
    def test_every_module_has_a_layer(self) -> None:
        found = {
            path.stem
            for path in TOP.iterdir()
            if path.suffix == ".py" or (path / "__init__.py").exists()
        }
        self.assertEqual(found - {"__init__", "__main__"}, set(LAYERS))

    def test_arrows_point_down(self) -> None:
        wrong = [
            f"{module} imports {name}"
            for module, name in imports()
            if "." in module and layer_of(module) != "__main__"
            and LAYERS.index(layer_of(name)) > LAYERS.index(layer_of(module))
        ]  # fmt: skip
        self.assertEqual(wrong, [])

    def test_no_cycles(self) -> None:
        graph: dict[str, set[str]] = {}
        for module, name in imports():
            graph.setdefault(module, set()).add(name)
        done: set[str] = set()

        def walk(module: str, path: tuple[str, ...]) -> None:
            self.assertNotIn(module, path, " -> ".join((*path, module)))
            if module not in done:
                for name in sorted(graph.get(module, ())):
                    walk(name, (*path, module))
                done.add(module)

        for module in sorted(graph):
            walk(module, ())

    def test_the_model_imports_nothing_of_ours(self) -> None:
        self.assertEqual(
            [name for module, name in imports() if module == "newburrow.model"], []
        )

    def test_only_the_command_line_prints(self) -> None:
        for path in TOP.rglob("*.py"):
            if path.relative_to(TOP).parts[0] != "cli":
                self.assertNotRegex(path.read_text("utf-8"), r"(?<![\w.])print\(", str(path))

    def test_no_stand_in_is_named_in_code(self) -> None:
        # a bag is no platform
        formats = {path.name.removesuffix(".py") for path in (TOP / "formats").iterdir()}
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
