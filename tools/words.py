"""Every word of the core that a page may say, for the catalogue: tables, labels, reasons, and the catalogue of limits.

Writes ``var/words/core.py``, and ``pages.py`` with what templates say; ``make words`` gathers both, and what the web's
programs say, into ``var/words/django.pot``.
"""

from __future__ import annotations

import ast
import csv
import re
import sys
from pathlib import Path

from django.utils.translation.template import templatize

ROOT = Path(__file__).resolve().parent.parent
CORE = ROOT / "treecore"
SPOKEN = re.compile(r"[A-Za-z]{2,}[^_]*$")
# Columns of tables that are keys, numbers or names of files.
KEYS = {
    "key", "choice", "class", "dimension", "side", "figures", "sources", "scientific", "heading", "takes", "kind",
    "shape", "layer", "effects", "closes", "flags", "unit",
}  # fmt: skip
CALLS = {
    "NotSolvable", "BadDocument", "between", "inside", "believed", "declared", "figure", "Figure", "Term", "dress",
    "_figure", "all_between", "Compared",
}  # fmt: skip


def of_tables() -> set[str]:
    """Words of the tables under data/."""
    found = set()
    for path in sorted((CORE / "data").glob("*.csv")):
        lines = [line for line in path.read_text(encoding="utf-8").splitlines() if not line.startswith("#")]
        for row in csv.DictReader(lines):
            found |= {v for k, v in row.items() if k not in KEYS and isinstance(v, str) and " " in v.strip() + " "}
    return found


def of_programs() -> set[str]:
    """Reasons, labels and named choices in the core's programs."""
    found = set()
    for path in CORE.rglob("*.py"):
        if "tests" in path.parts:
            continue
        tree = ast.parse(path.read_text(encoding="utf-8"))
        for node in ast.walk(tree):
            if isinstance(node, ast.Call) and _name(node.func) in CALLS:
                found |= _texts([*node.args, *(k.value for k in node.keywords)])
            elif isinstance(node, ast.Dict):
                found |= _texts(node.values)
    return found


def _name(func: ast.expr) -> str:
    return func.id if isinstance(func, ast.Name) else func.attr if isinstance(func, ast.Attribute) else ""


def _texts(nodes: list[ast.expr]) -> set[str]:
    return {n.value for n in nodes if isinstance(n, ast.Constant) and isinstance(n.value, str)}


def of_limits() -> set[str]:
    """The catalogue of limits."""
    sys.path.insert(0, str(ROOT))
    from cantrel.limitwords import CASES, WORDS

    return {text for said in (*WORDS.values(), *CASES.values()) for text in said}


def templates() -> list[Path]:
    """Every template."""
    return sorted(path for room in ("apps", "cantrel") for path in (ROOT / room).rglob("*.html"))


def words() -> list[str]:
    """All of them, in order."""
    found = of_tables() | of_programs() | of_limits()
    return sorted(text for text in found if SPOKEN.search(text) and not re.fullmatch(r"[a-z0-9_./%]+", text))


if __name__ == "__main__":
    here = ROOT / "var" / "words"
    here.mkdir(parents=True, exist_ok=True)
    lines = [f"gettext_noop({text!r})" for text in words()]
    (here / "core.py").write_text("\n".join(["from django.utils.translation import gettext_noop", *lines, ""]))
    pages = "\n".join(templatize(path.read_text(encoding="utf-8"), origin=str(path)) for path in templates())
    (here / "pages.py").write_text(pages, encoding="utf-8")
    print(f"{len(lines)} words of the core")
