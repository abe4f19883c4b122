"""The bill of materials: every package pinned in requirements.lock and every file shipped from elsewhere.

``python tools/bill.py`` prints it as CycloneDX 1.5 JSON; ``--notices`` writes THIRD-PARTY.md with the words of every
licence; ``--check`` holds the shipped files against their checksums (cantrel/static/vendor/SHA256SUMS) and exits with 1
where one differs; ``--sums`` writes those checksums anew, after tools/vendor.sh.
"""

from __future__ import annotations

import hashlib
import json
import re
import sys
from importlib.metadata import Distribution, distribution
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
VENDOR = ROOT / "cantrel" / "static" / "vendor"
SUMS = VENDOR / "SHA256SUMS"
PINNED = re.compile(r"^([A-Za-z0-9_.-]+)==([^ ;\\]+)")
HASH = re.compile(r"--hash=sha256:([0-9a-f]{64})")
WORDS = re.compile(r"(LICEN[CS]E|COPYING|NOTICE)", re.IGNORECASE)
SHIPPED = {
    "alpine": ("Alpine.js, CSP build, and its morph plugin", "MIT"),
    "tom-select": ("Tom Select", "Apache-2.0"),
    "bootstrap": ("Bootstrap, built from its Sass", "MIT"),
    "sortable": ("SortableJS", "MIT"),
    "workbox": ("Workbox, the parts a service worker uses", "MIT"),
    "idb": ("idb", "ISC"),
    "icons": ("Bootstrap Icons", "MIT"),
    "archivo": ("Archivo", "OFL-1.1"),
}


def pinned() -> list[tuple[str, str, list[str]]]:
    """Packages of the lock: name, version, hashes."""
    found: list[tuple[str, str, list[str]]] = []
    for line in (ROOT / "requirements.lock").read_text(encoding="utf-8").splitlines():
        named = PINNED.match(line)
        if named:
            found.append((named[1], named[2], []))
        if found:
            found[-1][2].extend(HASH.findall(line))
    return found


def licence(of: Distribution) -> str:
    """What a package says of its licence."""
    data = of.metadata
    classes = [c.split("::")[-1].strip() for c in data.get_all("Classifier") or [] if c.startswith("License")]
    said = str(data.get("License-Expression") or "") or ", ".join(classes) or str(data.get("License") or "")
    return said.strip().splitlines()[0]


def checksums() -> dict[str, str]:
    """Checksum of every shipped file, by its path in the folder."""
    files = sorted(p for p in VENDOR.rglob("*") if p.is_file() and p != SUMS)
    return {str(p.relative_to(VENDOR)): hashlib.sha256(p.read_bytes()).hexdigest() for p in files}


def bill() -> dict[str, Any]:
    """The whole bill."""
    parts: list[dict[str, Any]] = []
    for name, version, hashes in pinned():
        parts.append(
            {
                "type": "library",
                "name": name,
                "version": version,
                "purl": f"pkg:pypi/{name}@{version}",
                "hashes": [{"alg": "SHA-256", "content": one} for one in hashes],
                "licenses": [{"license": {"name": licence(distribution(name))}}],
            }
        )
    for path, digest in checksums().items():
        name, words = SHIPPED.get(path.split("/")[0], ("", ""))
        if name:
            told = {"licenses": [{"license": {"id": words}}], "hashes": [{"alg": "SHA-256", "content": digest}]}
            parts.append({"type": "file", "name": f"{name}: {path}", **told})
    return {"bomFormat": "CycloneDX", "specVersion": "1.5", "version": 1, "components": parts}


def notices() -> str:
    """Every package with the words of its licence."""
    out = ["# What Cantrel stands on\n", "Made by `tools/bill.py --notices` from the installed packages.\n"]
    for name, version, _ in pinned():
        found = distribution(name)
        out.append(f"## {name} {version}: {licence(found)}\n")
        for file in found.files or ():
            if WORDS.search(Path(str(file)).name):
                out.append(f"```\n{found.locate_file(file).read_text(encoding='utf-8').strip()}\n```\n")
    for folder, (name, words) in SHIPPED.items():
        out.append(f"## {name}: {words}\n")
        out += [
            f"```\n{p.read_text(encoding='utf-8').strip()}\n```\n"
            for p in sorted((VENDOR / folder).rglob("*"))
            if p.is_file() and re.search(r"(LICEN[CS]E|OFL|COPYING)", p.name, re.IGNORECASE)
        ]
    return "\n".join(out)


def main(words: list[str]) -> int:
    """Do what was asked."""
    if "--check" in words:
        kept = dict(reversed(line.split("  ", 1)) for line in SUMS.read_text(encoding="utf-8").splitlines())
        odd = sorted({*kept, *checksums()} - {p for p, digest in checksums().items() if kept.get(p) == digest})
        print("\n".join(odd) or "every shipped file is what it was")
        return 1 if odd else 0
    if "--sums" in words:
        SUMS.write_text("".join(f"{d}  {p}\n" for p, d in checksums().items()), encoding="utf-8")
    elif "--notices" in words:
        (ROOT / "THIRD-PARTY.md").write_text(notices(), encoding="utf-8")
    else:
        print(json.dumps(bill(), indent=1))
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
