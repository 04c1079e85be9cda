"""The core knows no Django, no HTTP and no server; it imports nothing above itself."""

import ast
from pathlib import Path

import plinto_core

FORBIDDEN = {"django", "ninja", "plinto_server", "plinto_demo", "http", "urllib", "socket", "gunicorn"}


def test_core_imports_nothing_above_itself():
    found = []
    for path in Path(plinto_core.__file__).parent.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            names = [alias.name for alias in node.names] if isinstance(node, ast.Import) else []
            names += [node.module or ""] if isinstance(node, ast.ImportFrom) else []
            # The sandbox speaks with its own process over a socket of the file system.
            allowed = {"socket"} if path.parent.name == "sandbox" else set()
            found += [(path.name, name) for name in names if name.split(".")[0] in FORBIDDEN - allowed]
    assert found == []
