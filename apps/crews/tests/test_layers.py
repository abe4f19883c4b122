"""Which part of a room takes what from the core, by the names of its files: a new file falls under the rule of its
name.
"""

import ast
from fnmatch import fnmatch
from pathlib import Path
from unittest import TestCase

import apps

ROOT = Path(apps.__file__).parent
# Only planners ask the core to work something out.
PLANNERS = "*planner.py"
# Everybody else takes from it what is said: declarations, errors, and what a verdict is.
WORDS = {"errors", "document", "verdict"}
# Rows and words know what there is to choose from besides; they compute nothing.
CHOICES = WORDS | {"ranges", "schools", "method", "features", "species", "rigging", "tree"}
ROWS = ("models.py", "wording.py")


def files():
    for path in sorted(ROOT.rglob("*.py")):
        room, *rest = path.relative_to(ROOT).parts
        if rest and not {"tests", "migrations"} & set(rest):
            yield room, path


def imported(path):
    """Modules a file imports, whole and what is taken from them; what only its types name is left out."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    typed = [n for n in tree.body if isinstance(n, ast.If) and ast.unparse(n.test) == "TYPE_CHECKING"]
    left_out = {id(node) for block in typed for node in ast.walk(block)}
    for node in ast.walk(tree):
        if id(node) in left_out:
            continue
        if isinstance(node, ast.Import):
            yield from (a.name for a in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module:
            yield node.module
            yield from (f"{node.module}.{a.name}" for a in node.names)


def taken(path):
    """Parts of the core a file imports."""
    return (name.split(".")[1] for name in imported(path) if name.startswith("treecore."))


class Layers(TestCase):
    def test_only_planners_ask_the_core(self):
        seen = 0
        for room, path in files():
            if fnmatch(path.name, PLANNERS):
                continue
            seen += 1
            with self.subTest(file=f"{room}/{path.name}"):
                self.assertEqual(set(taken(path)) - (CHOICES if path.name in ROWS else WORDS), set())
        self.assertGreater(seen, 80)

    def test_planners_draw_nothing_and_know_no_request(self):
        for room, path in files():
            if fnmatch(path.name, PLANNERS):
                named = set(imported(path))
                with self.subTest(file=f"{room}/{path.name}"):
                    self.assertFalse(
                        {
                            n
                            for n in named
                            if n.split(".")[-1].endswith(("presenter", "picture", "views", "forms"))
                            and n.startswith("apps.")
                        }
                    )
                    self.assertFalse(named & {"cantrel.drawing", "django.http", "django.template.loader"})


class Views(TestCase):
    def test_a_view_is_read_at_once(self):
        seen = 0
        for room, path in files():
            for node in ast.parse(path.read_text(encoding="utf-8")).body:
                marks = " ".join(map(ast.unparse, getattr(node, "decorator_list", ())))
                if "permission(" in marks:
                    seen += 1
                    said = ast.get_docstring(node) is not None
                    first = node.body[1 if said else 0]
                    with self.subTest(view=f"{room}/{path.name}:{node.name}"):
                        self.assertLessEqual(node.body[-1].end_lineno - first.lineno + 1, 12)
        self.assertGreater(seen, 50)


class Templates(TestCase):
    def test_lines_are_short_enough_to_read(self):
        for path in [*ROOT.rglob("*.html"), *(ROOT.parent / "cantrel").rglob("*.html")]:
            for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), start=1):
                self.assertLessEqual(len(line), 200, f"{path.name}:{number}")
