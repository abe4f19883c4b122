"""Which part of a room takes what from the core, by the names of its files: a new file falls under the rule of its
name.
"""

import ast
from fnmatch import fnmatch
from pathlib import Path
from unittest import TestCase

import apps

ROOT = Path(apps.__file__).parent
# What pages and forms take from the core: declarations, errors, and words.
WORDS = {"errors", "document"}
PAGES = (
    "*views.py",
    "*forms.py",
    "urls.py",
    "commands.py",
    "targets.py",
    "undo.py",
    "strip.py",
    "apps.py",
    "scopes.py",
)
# Rows and words know what there is to choose from and what a verdict is; they compute nothing.
CHOICES = WORDS | {"ranges", "verdict", "schools", "hazards", "method", "features", "species", "rigging", "tree"}
ROWS = ("models.py", "wording.py")


def files():
    for path in sorted(ROOT.rglob("*.py")):
        room, *rest = path.relative_to(ROOT).parts
        if rest and not {"tests", "migrations"} & set(rest):
            yield room, path


def taken(path):
    """Parts of the core a file imports."""
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        names = [a.name for a in node.names] if isinstance(node, ast.Import) else []
        names += [node.module or ""] if isinstance(node, ast.ImportFrom) else []
        yield from (name.split(".")[1] for name in names if name.startswith("treecore."))


class Layers(TestCase):
    def test_pages_and_forms_compute_nothing(self):
        seen = 0
        for room, path in files():
            for patterns, allowed in ((PAGES, WORDS), (ROWS, CHOICES)):
                if any(fnmatch(path.name, pattern) for pattern in patterns):
                    seen += 1
                    with self.subTest(file=f"{room}/{path.name}"):
                        self.assertEqual(set(taken(path)) - allowed, set())
        self.assertGreater(seen, 50)


class Templates(TestCase):
    def test_lines_are_short_enough_to_read(self):
        for path in [*ROOT.rglob("*.html"), *(ROOT.parent / "cantrel").rglob("*.html")]:
            for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), start=1):
                self.assertLessEqual(len(line), 200, f"{path.name}:{number}")
