"""Arrows only point down: docs/architecture.md names the layers, the code keeps to them."""

from __future__ import annotations

import ast
import re
import unittest
from collections.abc import Iterator
from pathlib import Path

CORE = Path(__file__).resolve().parent.parent
PAGE = CORE.parent / "docs" / "architecture.md"


def layers() -> dict[str, int]:
    """The layer of each folder and module of the core, the highest is 0."""
    table = PAGE.read_text().split("| folders and modules | subject |")[1].split("\n\n")[0]
    out = {}
    for n, line in enumerate(table.splitlines()[2:]):
        for name in re.findall(r"`([a-z_]+)(?:/|\.py)`", line.split("|")[1]):
            out[name] = n
    return out


def imports(path: Path) -> Iterator[str]:
    """Folders and modules of the core that a file imports from."""
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom):
            whole = node.module or ""
            names = [f"{whole}.{a.name}" for a in node.names] if whole == "retouch" else [whole]
        elif isinstance(node, ast.Import):
            names = [a.name for a in node.names]
        else:
            continue
        yield from (n.split(".")[1] for n in names if n.startswith("retouch."))


class Layers(unittest.TestCase):
    def test_everything_has_a_layer(self) -> None:
        here = {p.stem for p in CORE.glob("*.py")} | {
            p.parent.name for p in CORE.glob("*/__init__.py")
        }
        self.assertEqual(set(layers()), here - {"__init__", "__main__", "tests"})

    def test_arrows_only_point_down(self) -> None:
        known = layers()
        up = []
        for path in CORE.rglob("*.py"):
            own = path.relative_to(CORE).parts[0].removesuffix(".py")
            if own not in known:
                continue
            up += [
                f"{path.relative_to(CORE)} -> {name}"
                for name in imports(path)
                if name != own and known[name] <= known[own]
            ]
        self.assertEqual(up, [])

    def test_the_core_knows_no_interface(self) -> None:
        for path in CORE.rglob("*.py"):
            if "tests" not in path.parts:
                self.assertNotRegex(
                    path.read_text(), r"(?m)^\s*(from|import) (django|ninja|studio)\b"
                )


class Folders(unittest.TestCase):
    """Each folder says in a sentence what it holds."""

    def test_of_python(self) -> None:
        root = CORE.parent
        silent = [
            str(path.parent.relative_to(root))
            for top in ("retouch", "studio", "benchmarks", "demo", "training")
            for path in (root / top).rglob("__init__.py")
            if "migrations" not in path.parts and not ast.get_docstring(ast.parse(path.read_text()))
        ]
        self.assertEqual(silent, [])

    def test_of_the_window(self) -> None:
        source = CORE.parent / "web" / "src"
        told = set(re.findall(r"(?m)^\| `([a-z/]+)/` \|", (source / "README.md").read_text()))
        there = {str(p.parent.relative_to(source)) for p in source.rglob("*.ts*")}
        there |= {str(p.parent.relative_to(source)) for p in source.rglob("*.css")}
        self.assertEqual(told, there - {"."})
