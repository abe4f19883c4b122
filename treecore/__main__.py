"""Command line: ``python -m treecore evaluate FILE.json`` prints every result as JSON, ``limits FILE.json`` every
limit as a plain table, the gravest first; exit 2 on bad input.

``python -m treecore warm`` compiles the loops that are compiled, so that the first plan need not wait for them, and
``schema`` writes the schemas of plans and results anew from their declarations.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from treecore.day import quick
from treecore.document import codec
from treecore.document import results as results_shape
from treecore.errors import CoreError
from treecore.formats.plan_document import evaluate_document, load
from treecore.formats.refusals import refusals
from treecore.formats.table import limit_table
from treecore.rigging.motion import warm


def main(argv: list[str] | None = None) -> int:
    """Run a command.

    Parameters
    ----------
    argv : list of str, optional
        Arguments; the process's own by default.

    Returns
    -------
    int
        Exit status: 0, or 2 on bad input.
    """
    parser = argparse.ArgumentParser(prog="python -m treecore", description="Evaluate a plan document.")
    commands = parser.add_subparsers(dest="command", required=True)
    evaluate = commands.add_parser("evaluate", help="print every result of FILE as JSON")
    evaluate.add_argument("file", type=Path)
    limits = commands.add_parser("limits", help="print every limit of FILE as a table, the gravest first")
    limits.add_argument("file", type=Path)
    commands.add_parser("warm", help="compile what is compiled at first use, and keep it")
    commands.add_parser("schema", help="write the schemas of plans and results anew")
    options = parser.parse_args(argv)
    if options.command == "schema":
        for part in (codec, results_shape):
            Path(__file__).parent.joinpath(part.FILE).write_text(part.write(), encoding="utf-8")
        return 0
    if options.command == "warm":
        warm()
        quick.warm()
        return 0
    try:
        text = options.file.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        print(f"{options.file}: {error}", file=sys.stderr)
        return 2
    for refused in refusals(text):
        print(f"{options.file}: {refused.where}: {refused.why}", file=sys.stderr)
    try:
        results = evaluate_document(load(text))
    except CoreError:
        return 2
    if options.command == "limits":
        print("\n".join(limit_table(results)))
    else:
        print(json.dumps(results, indent=1, ensure_ascii=False, allow_nan=False))
    return 0


if __name__ == "__main__":
    sys.exit(main())
