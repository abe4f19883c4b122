"""Public names of the core are the field's own words, as the glossary has them."""

import dataclasses
import importlib
import inspect
import pkgutil
import re
from pathlib import Path
from unittest import TestCase

import treecore
from treecore.document.codec import _entries
from treecore.document.whole import PlanDocument

GLOSSARY = (Path(treecore.__file__).parent.parent / "docs" / "glossary.md").read_text(encoding="utf-8")
NOT = {"modulus", "lead", "passed", "passed_on", "slipped", "passed_by_fork", "lead_wood", "on_lead", "far_wood"}
# Fields of one class that go by a word that is fine elsewhere.
OF = {
    ("Forces", "rest"),
    ("Forces", "fall"),
    ("Peaks", "still"),
    ("Peaks", "stretch"),
    ("Piece", "thick"),
    ("RigPoint", "thick"),
}


def names():
    """Public functions, classes and fields of the core: where they are, and what they are called."""
    for info in pkgutil.walk_packages(treecore.__path__, "treecore."):
        if ".tests" in info.name or info.name.endswith("__main__"):
            continue
        for name, member in vars(importlib.import_module(info.name)).items():
            if name.startswith("_") or getattr(member, "__module__", None) != info.name:
                continue
            yield info.name, name
            if inspect.isclass(member):
                fields = getattr(member, "_fields", ())
                if dataclasses.is_dataclass(member):
                    fields = [f.name for f in dataclasses.fields(member)]
                yield from ((member.__name__, field) for field in fields)


class Words(TestCase):
    def test_no_public_name_is_a_word_the_glossary_rules_out(self):
        found = {(where, name) for where, name in names() if name in NOT or (where, name) in OF}
        self.assertEqual(found, set())

    def test_the_glossary_names_what_stands_instead(self):
        ruled_out = GLOSSARY.partition("## Words that are not used as names")[2]
        every = {name for _, name in names()}
        for new in re.findall(r"\| ([a-z_, ]+) \|$", ruled_out.partition("| --- | --- |")[2], re.M):
            for name in new.split(", "):
                with self.subTest(name=name):
                    self.assertIn(name, every)

    def test_entries_of_the_document_use_them_too(self):
        keys = {f.name for entry in _entries(PlanDocument) for f in dataclasses.fields(entry)}
        self.assertLessEqual({"redirect", "far_anchor", "codominant", "axial_stiffness_N"}, keys)
        self.assertEqual(keys & {"lead", "far", "modulus_N"}, set())
