"""A whole plan document: a job, its site, its trees, and the gear they name."""

from __future__ import annotations

from dataclasses import dataclass

from treecore.document.fields import declared
from treecore.document.gear import GearEntry
from treecore.document.site import JobEntry, SiteEntry
from treecore.document.tree import TreeEntry


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanDocument:
    """A whole job."""

    schema: str = declared(label="cantrel-plan")
    version: int = declared(label="Version of the format")
    job: JobEntry | None = declared(None, label="The job’s papers")
    site: SiteEntry | None = declared(None, label="The ground")
    trees: tuple[TreeEntry, ...] = declared(label="Trees")
    gear: tuple[GearEntry, ...] = declared((), label="Gear named in it", most=500)
