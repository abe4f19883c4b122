"""A tree: its measures, readings, limbs, walk-up, the way chosen, and what is planned for it."""

from __future__ import annotations

from dataclasses import dataclass

from treecore.document.felling import FellingEntry
from treecore.document.fields import declared, ident
from treecore.document.takedown import TakedownEntry

Three = tuple[float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingEntry:
    """One reading of a height or a diameter: what was read, by which method, by whom."""

    id: str = ident()
    quantity: str = declared(label="Quantity", choices="quantities", closed=True)
    method: str = declared(label="Method", choices="measuring", closed=True)
    arguments: dict[str, float] = declared(label="What was read")
    sd_m: float | None = declared(None, label="Spread of it, where known", dimension="offset", range="reading_sd")
    used: bool = declared(True, label="Used")
    by: str = declared("", label="Read by", most=120)
    note: str = declared("", label="Note", most=200)


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswerEntry:
    """What one person found of one hazard, and what is done about it."""

    id: str = ident()
    hazard: str = declared(label="Hazard")
    finding: str = declared(label="Finding", choices="findings", closed=True)
    side: str = declared("", label="Side", most=40)
    height_m: float | None = declared(None, label="Height", dimension="length")
    note: str = declared("", label="Note", most=300)
    response: str = declared("", label="What is done about it", most=300)
    by: str = declared("", label="Answered by", most=120)
    name: str = declared("", label="A crew’s own line", column="")
    group: str = declared("", label="Group of an own line", column="")
    gate: bool = declared(False, label="Blocks the sign-off", column="")
    caution: str = declared("", label="Caution of an own line", column="")


@dataclass(frozen=True, slots=True, kw_only=True)
class MethodEntry:
    """The way a tree is taken down, and why."""

    choice: str = declared("", label="Way", choices="method_choices", closed=True, column="method")
    reason: str = declared("", label="Reason", most=300)


@dataclass(frozen=True, slots=True, kw_only=True)
class PointEntry:
    """A diameter taken somewhere on the stem."""

    id: str = ident()
    height_m: float = declared(label="Height above the ground", dimension="length")
    diameter_m: float = declared(label="Diameter there", dimension="girth")


@dataclass(frozen=True, slots=True, kw_only=True)
class CavityEntry:
    """A hollow or decayed length of stem."""

    id: str = ident()
    low_m: float = declared(label="From", dimension="length")
    high_m: float = declared(label="To", dimension="length")
    across_m: float = declared(label="Across", dimension="girth")
    decayed: bool = declared(False, label="Decayed wood, not hollow")
    open: bool = declared(False, label="Open to outside")
    note: str = declared("", label="Note", most=200, core="", column="")


@dataclass(frozen=True, slots=True, kw_only=True)
class LimbEntry:
    """A limb or codominant stem by its measures."""

    id: str = ident()
    name: str = declared(label="Name", most=60)
    parent: str = declared("", label="Grows from", column="")
    at_m: float = declared(label="Union: up the stem, or along its parent", dimension="length", range="on_tree")
    azimuth_deg: float = declared(label="Points to (bearing)", dimension="angle", range="bearing")
    rise_deg: float = declared(label="Rise above level", dimension="angle", range="limb_rise")
    length_m: float = declared(label="Length to the tips", dimension="length", range="limb_length")
    diameter_m: float = declared(label="Diameter at its base", dimension="girth", range="limb_diameter")
    foliage: str = declared("full", label="Foliage", choices="foliage", closed=True)
    union: str = declared("sound", label="Union", choices="unions", closed=True)
    kind: str = declared("estimated", label="Known", choices="kinds", closed=True)
    dead: bool = declared(False, label="Dead")
    codominant: bool = declared(False, label="A codominant stem")
    note: str = declared("", label="Note", most=200, core="")


@dataclass(frozen=True, slots=True, kw_only=True)
class YardSpeciesEntry:
    """A yard's own species; figures as value, low and high."""

    key: str = declared("", label="Key")
    common: str = declared("", label="Common name")
    scientific: str = declared("", label="Scientific name")
    note: str = declared("", label="Note")
    source: str = declared("", label="Source")
    hinge: str = declared("", label="Hinge")
    splits: str = declared("", label="Splits")
    brittle: str = declared("", label="Brittle")
    decay: str = declared("", label="Decay")
    density_kg_m3: Three | None = declared(None, label="Green density")
    mor_MPa: Three | None = declared(None, label="Bending strength")
    moe_GPa: Three | None = declared(None, label="Modulus of elasticity")
    compression_MPa: Three | None = declared(None, label="Strength in compression")
    shear_MPa: Three | None = declared(None, label="Strength in shear")


@dataclass(frozen=True, slots=True, kw_only=True)
class TreeEntry:
    """A tree."""

    name: str = declared(label="Name of the tree", most=80, core="")
    species: str = declared(label="Species", choices="species")
    state: str = declared("in_leaf", label="State", choices="states", closed=True)
    x_m: float = declared(
        0.0, label="Place: east of the site's origin", dimension="length", range="site_reach", core="", must=True
    )
    y_m: float = declared(
        0.0, label="Place: north of the site's origin", dimension="length", range="site_reach", core="", must=True
    )
    diameter_m: float = declared(label="Diameter at breast height", dimension="girth", range="tree_diameter", core="")
    diameter_kind: str = declared("estimated", label="Diameter known", choices="kinds", closed=True, core="")
    diameter_across_m: float | None = declared(
        None, label="Second diameter, at right angles", dimension="girth", range="tree_diameter", core=""
    )
    oval_azimuth_deg: float | None = declared(
        None, label="First diameter taken along (bearing)", dimension="angle", range="bearing", core=""
    )
    height_m: float = declared(label="Height", dimension="length", range="tree_height", core="")
    height_kind: str = declared("estimated", label="Height known", choices="kinds", closed=True, core="")
    spread_m: float = declared(label="Crown spread", dimension="length", range="crown_spread", core="")
    lean_deg: float = declared(label="Lean from upright", dimension="fine_angle", range="tree_lean")
    lean_azimuth_deg: float = declared(label="Leans towards (bearing)", dimension="angle", range="bearing")
    lean_kind: str = declared("estimated", label="Lean known", choices="kinds", closed=True, core="")
    spar_top_m: float | None = declared(
        None,
        label="A bare spar: thick at its top (diameter is then at its foot, height its length)",
        dimension="girth",
        range="spar_top",
        core="",
    )
    crown_base_m: float | None = declared(None, label="Foot of the crown above ground", dimension="length")
    crown_east_m: float | None = declared(None, label="Crown’s middle east of the stem", dimension="length")
    crown_north_m: float | None = declared(None, label="Crown’s middle north of the stem", dimension="length")
    breast: str = declared("metric", label="Breast height (school)", choices="breasts", closed=True)
    fork_m: float | None = declared(
        None, label="Fork: where leads take over", dimension="length", range="fork_height", core="fork"
    )
    points: tuple[PointEntry, ...] = declared((), label="Diameters up the stem", core="")
    cavities: tuple[CavityEntry, ...] = declared((), label="Hollows and decay", core="")
    replaced: tuple[int, ...] = declared((), label="Assumed limbs that were looked at", core="")
    limbs: tuple[LimbEntry, ...] = declared((), label="Limbs", most=400, core="", column="")
    yard: YardSpeciesEntry | None = declared(None, label="The yard’s own species", core="", column="")
    readings: tuple[ReadingEntry, ...] = declared((), label="Readings", core="", column="")
    walk_up: tuple[AnswerEntry, ...] = declared((), label="Walk-up", core="", column="")
    method: MethodEntry | None = declared(None, label="Way chosen", core="", column="")
    felling: FellingEntry | None = declared(None, label="Felling", core="", column="")
    takedown: TakedownEntry | None = declared(None, label="Takedown", core="", column="")
