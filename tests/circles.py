"""Files that import each other in a circle, however long, told from their texts."""

import ast
from collections.abc import Iterator
from graphlib import CycleError, TopologicalSorter
from pathlib import Path


def circle_of(root: Path, package: str) -> list[str]:
    """A circle of modules of `package`, whose files lie in `root`; empty where there is none. Imports inside functions and
    those for type checking count: whoever reads a file has to read what it names."""
    files = {_module(path, root, package): path for path in root.rglob("*.py") if "migrations" not in path.parts}
    graph = {name: {found for found in _imported(path, files) if found != name} for name, path in files.items()}
    try:
        TopologicalSorter(graph).prepare()
    except CycleError as error:
        return [str(name) for name in error.args[1]]
    return []


def _module(path: Path, root: Path, package: str) -> str:
    parts = path.relative_to(root).with_suffix("").parts
    return ".".join((package, *(part for part in parts if part != "__init__")))


def _imported(path: Path, files: dict[str, Path]) -> Iterator[str]:
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names if alias.name in files)
        elif isinstance(node, ast.ImportFrom) and node.module:
            for alias in node.names:
                inner = f"{node.module}.{alias.name}"
                if inner in files:
                    yield inner
                elif node.module in files:
                    yield node.module
