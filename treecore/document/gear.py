"""An item of the gear store, and what a crew read off its own device."""

from __future__ import annotations

from dataclasses import dataclass

from treecore.document.fields import declared, ident


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceReadingEntry:
    """A known load that just creeps over a device, and the force that holds it."""

    id: str = ident()
    load_N: float = declared(label="Known load", dimension="force", range="reading_load")
    wraps: float = declared(label="Wraps it is on", range="reading_wraps")
    hand_N: float = declared(label="Force at the hand, by scale or cell", dimension="small_force", range="reading_hand")
    note: str = declared("", label="Rope, wet or dry", most=120, core="")
    at: str = declared("", label="When it was read", core="", column="")


@dataclass(frozen=True, slots=True, kw_only=True)
class GearEntry:
    """One item of the store."""

    id: str = ident()
    name: str = declared(label="Name", most=60)
    kind: str = declared(label="Kind", choices="gear_kinds")
    strength_N: float | None = declared(None, label="Breaks at, new", dimension="force", range="gear_strength")
    diameter_m: float | None = declared(
        None, label="Thickness, or sheave or drum across", dimension="thin", range="gear_diameter"
    )
    length_m: float | None = declared(None, label="Length", dimension="length", range="gear_length")
    construction: str = declared("", label="A rope’s construction", choices="constructions")
    axial_stiffness_N: float | None = declared(
        None, label="Axial stiffness EA, where its maker gives it", dimension="force", range="gear_stiffness"
    )
    wear: str = declared("good", label="Wear", choices="wear")
    bought: str | None = declared(None, label="Bought", core="")
    inspected: str | None = declared(None, label="Last inspected", core="")
    months: int = declared(6, label="Months between inspections", range="inspection_months")
    joined: bool = declared(False, label="A rope made of two (joined)")
    retired: str = declared("", label="Out of use because", most=120)
    note: str = declared("", label="Note", most=200, core="")
    readings: tuple[DeviceReadingEntry, ...] = declared((), label="Readings of a device", most=60, core="", column="")
