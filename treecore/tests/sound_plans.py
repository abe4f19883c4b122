"""Ten plans as a competent crew would make them: five fellings, five takedowns. Written before any threshold was moved.

Every figure has its reason beside it. Made up, like everything about Kestrel Lane.
"""

LOOKED = [  # somebody went round and found nothing
    {"hazard": key, "finding": "absent", "by": "Wren"}
    for key in (
        "conductors", "hung_limbs", "dead_top", "vines", "cables", "decay", "dead_tree", "included", "root_plate",
        "neighbours", "spring", "footing", "escape", "people", "wind", "light", "skill", "fatigue",
    )
]  # fmt: skip


def document(tree, felling=None, picks=None, targets=(), gear=(), slope=0.0, downhill=0.0, walk=()):
    """A plan document of one tree."""
    answered = {a["hazard"] for a in walk}
    entry = tree | {"walk_up": [*walk, *(a for a in LOOKED if a["hazard"] not in answered)]}
    if felling:
        entry |= {"felling": felling}
    if picks:
        entry |= {"takedown": {"picks": list(picks)}}
    site = {"slope_deg": slope, "downhill_deg": downhill, "targets": list(targets)}
    return {
        "schema": "cantrel-plan",
        "version": 4,
        "job": {"name": "Kestrel Lane"},
        "site": site,
        "trees": [entry],
        "gear": list(gear),
    }


def measured(name, species, diameter, height, spread, **more):
    """A tree that was taped and shot from two sides."""
    sizes = {"diameter_m": diameter, "height_m": height, "spread_m": spread}
    kinds = {"diameter_kind": "measured", "height_kind": "measured", "lean_kind": "measured"}
    return {"name": name, "species": species, "x_m": 0.0, "y_m": 0.0} | sizes | kinds | more


FENCE = {"name": "Field fence", "kind": "fence", "shape": "line", "outline_m": [[-60, 45], [60, 47]], "height_m": 1.2}

# A spruce in the open on a calm day, a little forward: a fifth deep for a hinge of 80 %, a tenth thick, two wedges
# to start it, knelt to at 25 cm.
SPRUCE = document(
    measured("Spruce", "picea_abies", 0.37, 18.5, 5.2, lean_deg=0.8, lean_azimuth_deg=95.0, crown_east_m=0.2,
    crown_north_m=0.0),
    felling={
        "lay_deg": 90.0, "stump_m": 0.25, "depth_m": 0.085, "opening_deg": 55.0, "hinge_m": 0.037, "rise_m": 0.03,
        "thickness_school": "tenth", "depth_school": "chord80", "notch_school": "conventional", "bar_m": 0.45,
        "wedges": {"count": 2, "kind": "plastic"}, "wind_m_s": 1.0, "wind_from_deg": 270.0, "zone_school": "1.5",
    },
    targets=[FENCE],
)  # fmt: skip

# A pine that stands 1° back: pulled by a winch from 40 m, tied at three fifths of its height in wood as thick as a
# thigh;
# shallow notch for lever, 2.5 kN where balance, hinge and wind ask about half of it, wedges only to keep what is won.
PINE = document(
    measured("Pine", "pinus_sylvestris", 0.46, 22.0, 6.5, lean_deg=1.0, lean_azimuth_deg=210.0, crown_east_m=-0.1,
    crown_north_m=-0.3),
    felling={
        "lay_deg": 30.0, "stump_m": 0.3, "depth_m": 0.09, "opening_deg": 60.0, "hinge_m": 0.046, "rise_m": 0.04,
        "thickness_school": "tenth", "depth_school": "shallow", "notch_school": "conventional", "bar_m": 0.5,
        "wedges": {"count": 2, "kind": "plastic"}, "wind_m_s": 2.0, "wind_from_deg": 100.0, "zone_school": "1.5",
        "pull": {
            "tie_m": 12.0, "azimuth_deg": 30.0, "distance_m": 40.0, "anchor_m": 0.5, "force_N": 2500.0,
            "tackle": {"strength_N": 62e3, "owned_m": 60.0, "knot": "bowline", "gear_N": 20e3, "rating_N": 30e3,
            "by": "winch"},
        },
    },
    targets=[FENCE | {"outline_m": [[-60, -30], [60, -34]]}],
)  # fmt: skip

# A birch as good as plumb, the wind across: open notch that stays open, hinge a tenth, straight in. Behind the hinge
# of so thin a stem a wedge has no lever: three people draw it over with a line.
BIRCH = document(
    measured("Birch", "betula_pendula", 0.29, 15.5, 5.0, lean_deg=0.3, lean_azimuth_deg=140.0, crown_east_m=0.05,
    crown_north_m=-0.05),
    felling={
        "lay_deg": 140.0, "stump_m": 0.2, "depth_m": 0.06, "opening_deg": 75.0, "hinge_m": 0.028, "rise_m": 0.03,
        "thickness_school": "tenth", "depth_school": "chord80", "notch_school": "open", "bar_m": 0.4,
        "wedges": {"count": 0}, "wind_m_s": 1.0, "wind_from_deg": 50.0, "zone_school": "1.5",
        "pull": {
            "tie_m": 8.0, "azimuth_deg": 140.0, "distance_m": 30.0, "anchor_m": 1.0, "force_N": 350.0,
            "tackle": {"strength_N": 30e3, "owned_m": 45.0, "knot": "bowline", "gear_N": 10e3, "rating_N": 10e3,
            "by": "people", "people": 3},
        },
    },
    targets=[FENCE],
)  # fmt: skip

# An ash that leans five degrees forward in wood that splits: bored, a strap left, open notch, a hinge at the
# thin end of its school because ash bends hard, no wedges and no pull.
ASH = document(
    measured("Ash", "fraxinus_excelsior", 0.52, 21.0, 9.0, lean_deg=5.0, lean_azimuth_deg=255.0, crown_east_m=-1.2,
    crown_north_m=-0.3),
    felling={
        "lay_deg": 255.0, "stump_m": 0.3, "depth_m": 0.11, "opening_deg": 75.0, "hinge_m": 0.04, "rise_m": 0.03,
        "thickness_school": "tenth", "depth_school": "chord80", "notch_school": "open", "bar_m": 0.6,
        "pattern_school": "bore",
        "wedges": {"count": 0}, "wind_m_s": 2.0, "wind_from_deg": 75.0, "zone_school": "1.5",
    },
    targets=[FENCE],
)  # fmt: skip

# An oak that leans across its lay: a quarter deep for a long hinge, thicker on the side away from the lean, pulled
# along
# the lay by a winch, a wedge to follow.
OAK = document(
    measured("Oak", "quercus_robur", 0.58, 19.0, 9.5, lean_deg=1.2, lean_azimuth_deg=80.0, crown_east_m=0.3,
    crown_north_m=0.2),
    felling={
        "lay_deg": 10.0, "stump_m": 0.3, "depth_m": 0.15, "opening_deg": 60.0, "hinge_m": 0.055, "rise_m": 0.04,
        "taper_m": 0.015,
        "thickness_school": "tenth", "depth_school": "quarter", "notch_school": "conventional", "bar_m": 0.65,
        "wedges": {"count": 1, "kind": "plastic"}, "wind_m_s": 1.0, "wind_from_deg": 190.0, "zone_school": "1.5",
        "pull": {
            "tie_m": 9.5, "azimuth_deg": 10.0, "distance_m": 45.0, "anchor_m": 0.5, "force_N": 3000.0,
            "tackle": {"strength_N": 90e3, "owned_m": 70.0, "knot": "bowline", "gear_N": 30e3, "rating_N": 40e3,
            "by": "winch"},
        },
    },
    targets=[FENCE | {"outline_m": [[-60, -40], [60, -44]]}],
)  # fmt: skip


def bought(name, kind, strength, **more):
    """An item of gear looked at this autumn."""
    plain = {"name": name, "kind": kind, "strength_N": strength, "wear": "good"}
    return plain | {"bought": "2024-05-14", "inspected": "2026-09-02", "months": 12} | more


GEAR = [
    bought("Blue line", "rope", 62e3, diameter_m=0.014, length_m=60, construction="double_braid"),
    bought("Red sling", "sling", 110e3, diameter_m=0.02, length_m=4),
    bought("Big block", "block", 180e3, diameter_m=0.14),
    bought("Bollard", "device", 150e3, diameter_m=0.14),
    bought("Base sling", "sling", 130e3, diameter_m=0.02, length_m=5),
    bought("Yellow tag", "tag", 22e3, diameter_m=0.01, length_m=40),
]
LINES = {
    "rope": "Blue line",
    "sling": "Red sling",
    "block": "Big block",
    "device": "Bollard",
    "base": "Base sling",
    "tag": "Yellow tag",
}
MEADOW = [
    {
        "name": "Beet rows",
        "kind": "bed",
        "shape": "area",
        "outline_m": [[14, -6], [24, -6], [24, 6], [14, 6]],
        "height_m": 0.3,
    },
    {
        "name": "Shed",
        "kind": "building",
        "shape": "area",
        "outline_m": [[-16, 8], [-12, 8], [-12, 11], [-16, 11]],
        "height_m": 2.6,
    },
]


def up(stance, tie, member="", on="", **more):
    """A climber with a lanyard and a line on wood of this tree."""
    return {
        "climber": {
            "stance_member": member,
            "stance_m": stance,
            "tie_member": on,
            "tie_m": tie,
            "line_m": 45,
            "lanyard": True,
        }
        | more
    }


def lowered(member, at, tie, point, climber, **more):
    """A limb lowered off a block: tight rope, let run a little by hand, cut up where it lands."""
    usual = {
        "member": member,
        "at_m": at,
        "method": "butt",
        "cut": "hinge",
        "tie_m": tie,
        "point": {"member": "", "at_m": point},
        "held": "soft",
        "run_m": 2.0,
        "device_kind": "bollard",
        "device_at": [0.0, -0.4, 1.0],
        "wraps": 2.0,
        "away": "cut_up",
        "test_lift": True,
    }
    return usual | LINES | climber | more


def limb(name, at, azimuth, rise, length, diameter, **more):
    """A limb that was measured by rod and tape."""
    sizes = {"at_m": at, "azimuth_deg": azimuth, "rise_deg": rise, "length_m": length, "diameter_m": diameter}
    return {"name": name, "kind": "measured"} | sizes | more


# A wild cherry in a garden: five limbs lowered off a block high in the stem, tied short of the balance so that they
# hardly turn, then the top and three
# logs that fall free into the grass.
CHERRY = document(
    measured(
        "Cherry", "prunus_avium", 0.40, 13.0, 7.0, lean_deg=0.0, lean_azimuth_deg=0.0, replaced=list(range(21)),
        limbs=[
            limb("East", 4.2, 80, 25, 4.2, 0.12), limb("West", 5.0, 265, 20, 3.8, 0.11), limb("North", 6.1, 350, 30,
            3.4, 0.10),
            limb("South", 7.0, 170, 35, 3.0, 0.09), limb("High", 8.2, 60, 45, 2.4, 0.07),
        ],
    ),
    picks=[
        lowered("West", 0.3, 1.4, 7.6, up(4.8, 9.0, side_deg=85)),
        lowered("East", 0.3, 1.6, 7.6, up(4.0, 9.0, side_deg=260)),
        lowered("North", 0.3, 1.3, 9.0, up(5.9, 9.5, side_deg=170)),
        lowered("South", 0.3, 1.1, 9.0, up(6.8, 9.5, side_deg=350)),
        {"member": "High", "at_m": 0.3, "method": "toss", "cut": "top"} | up(7.9, 9.5, side_deg=240),
        # The top goes over the beet-free side on its own hinge, the climber behind it; logs of a stride follow it down.
        {"member": "", "at_m": 9.8, "method": "free", "cut": "hinge", "bearing_deg": 190} | up(9.1, 9.3, side_deg=10),
        {"member": "", "at_m": 8.0, "method": "free", "cut": "hinge", "bearing_deg": 190} | up(7.3, 7.4, side_deg=10),
        {"member": "", "at_m": 6.2, "method": "free", "cut": "hinge", "bearing_deg": 190} | up(5.5, 5.6, side_deg=10),
    ],
    targets=MEADOW, gear=GEAR,
)  # fmt: skip

# A spruce between beds: brashed on the way up by hand, stubs left that keep
# the saw off the climber's line, the top off by its hinge, then rings of a length two people roll,
# let fall on a bed of brush inside the zone that was taped off.
ZONE = {"name": "Taped off", "kind": "drop_zone", "shape": "area", "outline_m": [[-9, -9], [9, -9], [9, 9], [-9, 9]]}
BRUSH = {"bed": "brush", "bed_depth_m": 0.6, "bed_radius_m": 6.0}
RINGS = document(
    measured(
        "Tall spruce", "picea_abies", 0.34, 15.0, 4.0, lean_deg=0.0, lean_azimuth_deg=0.0, crown_base_m=3.0,
        replaced=list(range(21)),
        limbs=[limb("Low", 4.0, 200, 0, 1.9, 0.035), limb("Middle", 6.5, 20, 10, 1.7, 0.03), limb("Upper", 9.0, 110,
        20, 1.4, 0.025)],
    ),
    picks=[
        {"member": "Low", "at_m": 0.3, "method": "toss", "cut": "top"} | up(3.4, 8.0, side_deg=20),
        {"member": "Middle", "at_m": 0.3, "method": "toss", "cut": "top"} | up(5.9, 9.0, side_deg=200),
        {"member": "Upper", "at_m": 0.35, "method": "toss", "cut": "top"} | up(8.4, 9.6, side_deg=290),
        {"member": "", "at_m": 10.6, "method": "free", "cut": "hinge", "bearing_deg": 270} | up(9.9, 10.0, side_deg=90),
        {"member": "", "at_m": 9.0, "method": "free", "cut": "hinge", "bearing_deg": 270} | BRUSH | up(8.3, 8.4,
        side_deg=90),
        {"member": "", "at_m": 7.4, "method": "free", "cut": "hinge", "bearing_deg": 270} | BRUSH | up(6.7, 6.8,
        side_deg=90),
        {"member": "", "at_m": 5.8, "method": "free", "cut": "hinge", "bearing_deg": 270} | BRUSH | up(5.1, 5.2,
        side_deg=90),
    ],
    targets=[*MEADOW, ZONE], gear=GEAR,
)  # fmt: skip

# A poplar beside a shed: a crane takes six lengths, each within half of what it lifts there, the cutter in the lift.
CRANE = document(
    measured(
        "Poplar", "populus_nigra", 0.62, 24.0, 8.0, lean_deg=0.5, lean_azimuth_deg=45.0, replaced=list(range(21)),
        limbs=[limb("First", 9.0, 30, 40, 5.0, 0.14), limb("Second", 11.5, 210, 45, 4.5, 0.12)],
    ),
    picks=[
        {"member": m, "at_m": at, "method": "crane", "cut": "top", "capacity_kg": most, "lift": True,
        "sling": "Red sling", "sling_as": "choked", "away": "machine"}
        for m, at, most in (("First", 0.3, 900), ("Second", 0.3, 900), ("", 17.0, 1200), ("", 12.0, 1500), ("", 8.0,
        1800), ("", 4.5, 2000))
    ],
    targets=[MEADOW[1]], gear=GEAR,
)  # fmt: skip

# An ash with long limbs over beds: taken near their balance off a block in the stem above, drawn aside by a tag line
# onto
# the grass to the north.
LONG = document(
    measured(
        "Long ash", "fraxinus_excelsior", 0.55, 17.0, 12.0, lean_deg=0.0, lean_azimuth_deg=0.0,
        replaced=list(range(21)),
        limbs=[
            limb("North-east", 5.5, 40, 20, 5.5, 0.15), limb("North-west", 6.5, 320, 25, 5.0, 0.14), limb("East", 7.5,
            85, 30, 4.5, 0.12),
            limb("West", 8.2, 275, 30, 4.0, 0.11), limb("Top limb", 9.5, 350, 40, 3.5, 0.09), limb("South", 6.0, 180,
            20, 4.0, 0.11),
        ],
    ),
    picks=[
        lowered("North-east", 0.3, 2.0, 10.5, up(5.0, 12.0, side_deg=220), method="balance", wraps=2.5),
        lowered("South", 0.3, 1.4, 10.5, up(5.5, 12.0, side_deg=0), method="balance"),
        lowered("North-west", 0.3, 1.8, 10.5, up(6.0, 12.0, side_deg=140), method="balance"),
        lowered("East", 0.3, 1.6, 11.5, up(7.0, 12.5, side_deg=265), method="balance"),
        lowered("West", 0.3, 1.4, 11.5, up(7.7, 12.5, side_deg=95), method="balance"),
        lowered("Top limb", 0.3, 1.2, 12.5, up(9.0, 13.0, side_deg=170), method="balance"),
    ],
    targets=MEADOW, gear=GEAR,
)  # fmt: skip

# A leaning maple over a fence, from a lift: limbs lowered tight off the stem, each lifted a little to try before it is
# let
# go; the last two pieces of stem by a low block are left to the saw on the ground.
LIFTED = document(
    measured(
        "Maple", "acer_platanoides", 0.45, 14.0, 9.0, lean_deg=2.0, lean_azimuth_deg=300.0, replaced=list(range(21)),
        limbs=[
            limb("Over the fence", 4.5, 300, 20, 4.5, 0.13), limb("Lane side", 5.4, 120, 25, 4.0, 0.12), limb("Inner",
            6.3, 30, 35, 3.5, 0.10),
            limb("Outer", 7.2, 215, 35, 3.2, 0.09), limb("Last", 8.3, 330, 45, 2.8, 0.08), limb("Tuft", 9.2, 100, 50,
            2.0, 0.06),
        ],
    ),
    picks=[
        lowered("Lane side", 0.3, 1.5, 8.5, {"lift": True}),
        lowered("Over the fence", 0.3, 1.7, 8.5, {"lift": True}),
        lowered("Outer", 0.3, 1.2, 9.5, {"lift": True}),
        lowered("Inner", 0.3, 1.3, 9.5, {"lift": True}),
        lowered("Last", 0.3, 1.0, 10.0, {"lift": True}),
        {"member": "Tuft", "at_m": 0.2, "method": "toss", "cut": "top", "lift": True},
    ],
    targets=[{"name": "Paling", "kind": "fence", "shape": "line", "outline_m": [[-12, 2], [-4, 14]], "height_m": 1.4}],
    gear=GEAR,
)  # fmt: skip

FELLINGS = {"spruce": SPRUCE, "pine": PINE, "birch": BIRCH, "ash": ASH, "oak": OAK}
TAKEDOWNS = {"cherry": CHERRY, "rings": RINGS, "crane": CRANE, "long": LONG, "lifted": LIFTED}
