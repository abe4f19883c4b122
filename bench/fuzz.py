"""Hostile input in bulk: ``.venv/bin/python bench/fuzz.py [COUNT]`` runs the tests of hostile input with COUNT examples
each, 10,000 by default, instead of the few hundred of ``make test``.
"""

import os
import subprocess
import sys
import time

TESTS = ("tests.test_hostile", "treecore.tests.test_hostile")


def main() -> int:
    """Run them; the exit status is theirs."""
    count = sys.argv[1] if len(sys.argv) > 1 else "10000"
    began = time.perf_counter()
    run = [sys.executable, "manage.py", "test", "--noinput", "--parallel", "auto", *TESTS]
    status = subprocess.run(run, env=os.environ | {"CANTREL_FUZZ": count}, check=False).returncode
    print(f"{count} examples each, {time.perf_counter() - began:.0f} s, {'nothing failed' if not status else 'FAILED'}")
    return status


if __name__ == "__main__":
    sys.exit(main())
