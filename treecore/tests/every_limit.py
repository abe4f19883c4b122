"""One way to trip every limit there is: a sound plan, what is changed in it, and what mends it again.

A change is a list of steps on the plan document: where, and what is written over there. Without anything said the
mended twin is the sound plan itself.
"""

import copy
from typing import NamedTuple

from treecore.tests.sound_plans import FELLINGS, TAKEDOWNS, bought

BAD = ("over", "not_known")
NEAR = ("near",)


class Trip(NamedTuple):
    """A sound plan by name, the pick it is about (None for a felling, -1 for the tree or the way up), and the steps."""

    base: str
    pick: int | None
    steps: tuple
    mend: tuple = ()
    says: tuple = BAD


def cut(**more):
    """Something about the felling."""
    return "felling", more


def tree(**more):
    """Something about the tree."""
    return "tree", more


def pick(**more):
    """Something about the pick in question; None takes it off."""
    return "pick", more


def climber(**more):
    """Something about its climber."""
    return "climber", more


def seen(hazard, **more):
    """A finding of the walk-up."""
    return "seen", {"hazard": hazard, "finding": "present"} | more


def target(name, kind, *outline, **more):
    """Something on the site."""
    shape = "area" if len(outline) > 2 else "line" if len(outline) == 2 else "spot"
    plain = {"name": name, "kind": kind, "shape": shape, "outline_m": [list(p) for p in outline]}
    return "target", plain | more


def square(x, y, half=0.5):
    """An area round a place."""
    return (x - half, y - half), (x + half, y - half), (x + half, y + half), (x - half, y + half)


def site(**more):
    """Something about the ground."""
    return "site", more


def gear(name, **more):
    """Something about an item of gear."""
    return "gear", {"name": name} | more


def limb(name, **more):
    """Something about a limb."""
    return "limb", {"name": name} | more


def pull(**more):
    """Something about the pull line; ``tackle`` is written over piece by piece."""
    return "pull", more


def plan_of(base, number, steps):
    """The document with its steps taken."""
    plan = copy.deepcopy((FELLINGS | TAKEDOWNS)[base])
    for where, what in steps:
        _STEPS[where](plan, number, what)
    return plan


def _felling(plan, number, what):
    plan["trees"][0]["felling"] |= what


def _tree(plan, number, what):
    plan["trees"][0] |= what


def _pick(plan, number, what):
    row = plan["trees"][0]["takedown"]["picks"][number]
    row |= what
    for key in [k for k, v in row.items() if v is None]:
        del row[key]


def _climber(plan, number, what):
    row = plan["trees"][0]["takedown"]["picks"][number]
    row["climber"] = row.get("climber", {}) | what


def _seen(plan, number, what):
    walk = plan["trees"][0]["walk_up"]
    walk[:] = [a for a in walk if a["hazard"] != what["hazard"]] + [what]


def _target(plan, number, what):
    plan["site"]["targets"].append(what)


def _site(plan, number, what):
    plan["site"] |= what


def _gear(plan, number, what):
    rows = plan["gear"]
    old = next((g for g in rows if g["name"] == what["name"]), None)
    if old is None:
        rows.append(what)
    else:
        old |= what
        for key in [k for k, v in old.items() if v is None]:
            del old[key]


def _limb(plan, number, what):
    limbs = plan["trees"][0].setdefault("limbs", [])
    old = next((b for b in limbs if b["name"] == what["name"]), None)
    if old is None:
        limbs.append(what)
    else:
        old |= what


def _pull(plan, number, what):
    line = plan["trees"][0]["felling"]["pull"]
    tackle = line["tackle"] | what.get("tackle", {})
    line |= what
    line["tackle"] = {k: v for k, v in tackle.items() if v is not None}


_STEPS = {
    "felling": _felling, "tree": _tree, "pick": _pick, "climber": _climber, "seen": _seen, "target": _target,
    "site": _site,
    "gear": _gear, "limb": _limb, "pull": _pull,
}  # fmt: skip


def mirrored(plan):
    """The document in a mirror that keeps north and swaps east with west."""
    plan = copy.deepcopy(plan)
    _flip(plan)
    return plan


_BEARINGS = (
    "lean_azimuth_deg",
    "oval_azimuth_deg",
    "azimuth_deg",
    "lay_deg",
    "wind_from_deg",
    "downhill_deg",
    "bearing_deg",
    "side_deg",
)
_SIGNED = ("x_m", "crown_east_m", "taper_m", "place_deg", "tilt_deg")
_PLACES = ("device_at", "device_from_m", "landing_m", "tag_from_m", "place_m")
_SIDES = {"left": "right", "right": "left"}


def _flip(node):
    if isinstance(node, list):
        for part in node:
            _flip(part)
        return
    if not isinstance(node, dict):
        return
    for key, value in node.items():
        if value is None:
            continue
        if key in _BEARINGS:
            node[key] = (360.0 - value) % 360.0
        elif key in _SIGNED:
            node[key] = -value
        elif key in _PLACES:
            node[key] = [-value[0], *value[1:]]
        elif key == "outline_m":
            node[key] = [[-x, y] for x, y in value]
        elif key in ("bypass_side", "escape_side"):
            node[key] = _SIDES.get(value, value)
        else:
            _flip(value)


# The two systems of ropes a felling may have instead of a single line.
def system(**more):
    """A pull through a block well out of the fall to a winch; the lay of the spruce is east."""
    parts = [
        {"name": "Block", "kind": "block", "x_m": 40.0, "y_m": 2.0, "height_m": 0.6, "rating_N": 60e3, "trunk_m": 0.5},
        {
            "name": "Winch",
            "kind": "winch",
            "x_m": 30.0,
            "y_m": 25.0,
            "force_N": 2500.0,
            "rating_N": 40e3,
            "trunk_m": 0.5,
        },
    ]
    ropes = [
        {
            "name": "Long line",
            "path": ["tree", "Block", "Winch"],
            "owned_m": 90.0,
            "strength_N": 60e3,
            "knot": "bowline",
        }
    ]
    parts = [p | more.get(p["name"], {}) for p in parts]
    ropes = [r | more.get("rope", {}) for r in ropes]
    return cut(system={"tie_m": 9.0, "parts": parts, "ropes": ropes})


CRACK = {"low_m": 0.0, "high_m": 1.2, "across_m": 0.28}
DEAD_TOP = seen("dead_top", height_m=6.0)


def leg(thick, length):
    """A bridle leg."""
    return "gear", bought("Leg", "leg", 30e3, diameter_m=thick, length_m=length)


SNAP = "gear", bought("Snap", "karabiner", 40e3)
BRIDLED = pick(method="bridle", tie_m=1.2, second_tie_m=3.2, leg="Leg")
UP = "access", {"way": "throw", "member": "", "at_m": 7.0, "isolated": True, "tested": True}
PASSAGE = target("Passage", "way_out", (0, -3), (0, -9), (6, -9), shape="line", width_m=0.8)
ADJACENT = target("Rigging lime", "tree", (6.0, 2.0), height_m=18.0)

FELLED = {
    "conductor": Trip("spruce", None, (target("Wire", "conductor", (30, -40), (30, 40), ends_m=[6.0, 6.0], sag_m=0.5),),
                      (target("Wire", "conductor", (60, -40), (60, 40), ends_m=[6.0, 6.0], sag_m=0.5, voltage="low"),)),
    "fit": Trip("spruce", None, (target("Hut", "building", *square(12, 0.5), height_m=2.5),)),
    "fit_unknown": Trip("spruce", None, (site(targets=[]),)),
    "hung_up": Trip("spruce", None, (target("Larch", "tree", (10, 0.5), height_m=12.0, radius_m=2.0),)),
    "people_near": Trip("spruce", None, (target("Bench", "people", *square(-8, 3)),), (
        target("Bench", "people", *square(-8, 3)), seen("people", response="Gate shut and guarded"))),
    "escape": Trip("spruce", None, (target("Wall", "wall", (-2, -8), (-2, 8), height_m=2.0),)),
    "escape_side": Trip("oak", None, (cut(escape_side="right"),), (cut(escape_side="left"),)),
    "escape_slope": Trip("spruce", None, (site(slope_deg=40.0, downhill_deg=90.0),), (site(slope_deg=9.0,
    downhill_deg=90.0),)),
    "escape_time": Trip("ash", None, (("site", {"slope_deg": 9.0, "downhill_deg": 75.0}),), (), NEAR),
    "tip": Trip("pine", None, (cut(pull=None),)),
    "thin": Trip("oak", None, (cut(hinge_m=0.012),)),
    "thick": Trip("birch", None, (cut(hinge_m=0.08),)),
    "commit": Trip("spruce", None, (cut(wind_m_s=14.0, wind_from_deg=90.0),)),
    "parts": Trip("spruce", None, (cut(wind_m_s=14.0, wind_from_deg=90.0),)),
    "early": Trip("birch", None, (cut(opening_deg=55.0),), (), NEAR),
    "close_school": Trip("pine", None, (cut(opening_deg=38.0),), (), NEAR),
    "depth_school": Trip("spruce", None, (cut(depth_m=0.13),), (), NEAR),
    "opening_school": Trip("spruce", None, (cut(opening_deg=80.0),), (), NEAR),
    "hinge_school": Trip("spruce", None, (cut(hinge_m=0.055),), (), NEAR),
    "rise_school": Trip("spruce", None, (cut(rise_m=0.06),), (), NEAR),
    "rise_below": Trip("spruce", None, (cut(rise_m=-0.01),)),
    "position": Trip("spruce", None, (cut(stump_m=0.9),), (), NEAR),
    "back_slope": Trip("spruce", None, (cut(back_slope_deg=35.0),)),
    "bar": Trip("spruce", None, (cut(bar_m=0.25),), (cut(bar_m=0.25, pattern_school="halves"),)),
    "split": Trip("ash", None, (tree(lean_deg=15.0), cut(pattern_school="straight"),)),
    "bypass": Trip("oak", None, (cut(bypass_m=0.004, bypass_side="left"),), (), (*BAD, *NEAR)),
    "bypass_lean": Trip("oak", None, (cut(bypass_m=0.02, bypass_side="right"),)),
    "wedge_dead": Trip("spruce", None, (tree(state="dead"),), (tree(state="dead"), cut(wedges={"count": 0}))),
    "wedge_hollow": Trip("spruce", None, (tree(cavities=[CRACK | {"across_m": 0.3}]),)),
    "wedge_room": Trip("spruce", None, (cut(depth_m=0.2, hinge_m=0.06),)),
    "wedge_start": Trip("spruce", None, (cut(wedges={"count": 2, "kind": "plastic", "tip_m": 0.012}),)),
    "wedge_lift": Trip("pine", None, (cut(pull=None), tree(lean_deg=8.0))),
    "wedge_force": Trip("oak", None, (cut(pull=None, wedges={"count": 1, "kind": "plastic"}),
    tree(lean_azimuth_deg=190.0, lean_deg=4.0))),
    "wind_unknown": Trip("ash", None, (cut(wind_m_s=None),)),
    "gust": Trip("spruce", None, (cut(wind_m_s=4.0, wind_from_deg=90.0),)),
    "early_move": Trip("spruce", None, (cut(wind_m_s=8.0),), (), (*BAD, *NEAR)),
    "line_slack": Trip("pine", None, (cut(wind_m_s=12.0, wind_from_deg=210.0),), (), NEAR),
    "root_plate": Trip("pine", None, (pull(force_N=60e3, tackle={"strength_N": 900e3, "gear_N": 300e3,
    "rating_N": 400e3}),)),
    "shear": Trip("birch", None, (pull(force_N=40e3), cut(hinge_m=0.007))),
    "leans": Trip("spruce", None, (tree(lean_deg=6.0, crown_east_m=-0.9, crown_north_m=0.0),), (), NEAR),
    "hinge_decay": Trip("spruce", None, (tree(cavities=[CRACK]),)),
    "deep_back": Trip("pine", None, (tree(lean_deg=1.8), cut(depth_m=0.17))),
    "guy_wanted": Trip("oak", None, (tree(species="populus_tremuloides", lean_deg=10.0),),
    (tree(species="populus_tremuloides", lean_deg=0.3),)),
    "guy_side": Trip("oak", None, (cut(guy={"tie_m": 9.0, "azimuth_deg": 100.0, "distance_m": 20.0, "limit_N": 20e3}),),
                     (cut(guy={"tie_m": 9.0, "azimuth_deg": 280.0, "distance_m": 20.0, "limit_N": 20e3}),)),
    "guy_force": Trip("oak", None, (tree(lean_deg=9.0), cut(guy={"tie_m": 9.0, "azimuth_deg": 280.0,
    "distance_m": 20.0, "limit_N": 900.0}),),
                      (cut(guy={"tie_m": 9.0, "azimuth_deg": 280.0, "distance_m": 20.0, "limit_N": 40e3}),)),
    "guy_out": Trip("oak", None, (cut(guy={"tie_m": 9.0, "azimuth_deg": 220.0, "distance_m": 20.0, "limit_N": 20e3}),),
                    (cut(guy={"tie_m": 9.0, "azimuth_deg": 220.0, "distance_m": 20.0, "limit_N": 20e3,
                    "tended": True}),)),
    "guy_slack": Trip("oak", None, (cut(guy={"tie_m": 9.0, "azimuth_deg": 330.0, "distance_m": 20.0, "limit_N": 20e3}),
    ),
                      (cut(guy={"tie_m": 9.0, "azimuth_deg": 280.0, "distance_m": 20.0, "limit_N": 20e3}),), NEAR),
    "line_fouls": Trip("pine", None, (target("Barn", "building", *square(10, 17.3, 3), height_m=9.0),)),
    "anchor_in_fall": Trip("pine", None, (pull(distance_m=15.0),)),
    "people_place": Trip("spruce", None, (system(Winch={"x_m": 12.0, "y_m": 0.5}),), (system(),)),
    "rope_short": Trip("pine", None, (pull(tackle={"owned_m": 30.0}),)),
    "rope_strength": Trip("pine", None, (pull(tackle={"strength_N": 9e3}),)),
    "gear": Trip("pine", None, (pull(tackle={"gear_N": 2e3}),)),
    "anchor": Trip("pine", None, (pull(tackle={"rating_N": None}),)),
    "tie_tears": Trip("pine", None, (pull(tie_m=20.2, force_N=30e3, tackle={"strength_N": 900e3, "gear_N": 300e3,
    "rating_N": 400e3}),)),
    "tie_breaks": Trip("pine", None, (pull(tie_m=17.0, force_N=30e3, tackle={"strength_N": 900e3, "gear_N": 300e3,
    "rating_N": 400e3}),)),
    "puller_unsaid": Trip("pine", None, (pull(tackle={"by": None}),)),
    "pullers": Trip("birch", None, (pull(tackle={"people": 1}),)),
    "join_stopped": Trip("spruce", None, (system(rope={"join": "double_sheet"}),), (system(),)),
    "chance": Trip("spruce", None, (target("Tool bench", "other", *square(14, 3.2, 0.6), height_m=1.0),)),
    "work_seen": Trip("spruce", None, (seen("wind"),)),
    "unanswered": Trip("spruce", None, (seen("cables"),), (seen("cables", response="Both ends found"),)),
    "not_measured": Trip("spruce", None, (seen("decay", response="Sounded"),)),
    "felled_seen": Trip("birch", None, (seen("vines"),)),
    "wedge_seen": Trip("spruce", None, (seen("dead_top", height_m=14.0), cut(zone_school="2.0")), (seen("dead_top",
    height_m=14.0), cut(wedges={"count": 0}))),
    "zone_seen": Trip("ash", None, (seen("dead_top", height_m=14.0),), (seen("dead_top", height_m=14.0),
    cut(zone_school="2.0"))),
}  # fmt: skip

TAKEN = {
    "wall": Trip("cherry", -1, (tree(cavities=[CRACK | {"across_m": 0.3, "high_m": 2.0}]),)),
    "union": Trip("cherry", -1, (limb("East", union="cracked"),)),
    "fork_thin": Trip("cherry", -1, (("access", {"way": "throw", "member": "", "at_m": 12.4, "isolated": True,
    "tested": True}),),
                      (UP,)),
    "fork_weak": Trip("cherry", -1, (("access", {"way": "throw", "member": "East", "at_m": 0.2, "isolated": True,
    "tested": True}), limb("East", dead=True)),
                      (("access", {"way": "throw", "member": "East", "at_m": 0.2, "isolated": True, "tested": True}),)),
    "access_line": Trip("cherry", -1, (("access", {"way": "throw", "member": "", "at_m": 7.0, "line_m": 12.0,
    "isolated": True, "tested": True}),),
                        (("access", {"way": "throw", "member": "", "at_m": 7.0, "line_m": 30.0, "isolated": True,
                        "tested": True}),)),
    "not_isolated": Trip("cherry", -1, (("access", {"way": "throw", "member": "", "at_m": 7.0, "tested": True}),),
                         (UP,)),
    "not_tested": Trip("cherry", -1, (("access", {"way": "throw", "member": "", "at_m": 7.0, "isolated": True}),),
                       (UP,)),
    "tie_past": Trip("cherry", 0, (pick(tie_m=2.8),)),
    "tie_high": Trip("cherry", 5, (pick(method="negative", tie_m=1.9, point={"member": "", "at_m": 9.5}),),
    (pick(method="negative", tie_m=0.3, point={"member": "", "at_m": 9.5}),), NEAR),
    "point_below": Trip("cherry", 2, (pick(point={"member": "", "at_m": 4.5}),)),
    "anchor_bends": Trip("cherry", 0, (pick(point={"member": "South", "at_m": 2.6}, held="lock", slack_m=0.6),)),
    # bending comes first
    "anchor_twists": Trip("long", 0, (limb("North-east", diameter_m=0.42, length_m=11.0), pick(point={"member": "",
    "at_m": 16.0}, held="lock", slack_m=2.0, wraps=4.0, device_at=[9.0, -9.0, 1.0])), (), NEAR),
    "anchor_other": Trip("cherry", 0, (ADJACENT, pick(point={"tree": "Rigging lime", "at_m": 12.0}),)),
    "anchor_union": Trip("cherry", 0, (pick(point={"member": "High", "at_m": 0.4}), limb("High", union="decayed")),
    (pick(point={"member": "High", "at_m": 0.4}),)),
    "top_large": Trip("cherry", 5, (pick(at_m=2.6, method="negative", tie_m=0.4, point={"member": "", "at_m": 2.0}),)),
    "far_unknown": Trip("long", 0, (pick(method="drift", far=None),)),
    "hand": Trip("long", 0, (pick(wraps=0.5),)),
    "stops_dead": Trip("long", 0, (pick(held="run", wraps=3.5, run_m=1.0),), (pick(held="run", wraps=1.0, run_m=1.0),)),
    "runs_away": Trip("long", 0, (pick(held="run", wraps=0.2, run_m=3.0),)),
    "locked_fall": Trip("long", 0, (pick(slack_m=2.5, held="lock", wraps=4.0),)),
    "fork_caught": Trip("long", 0, (pick(point={"member": "", "at_m": 10.5, "fork": True}, slack_m=1.0, block=None),)),
    "lifted_early": Trip("long", 0, (pick(pretension_N=9000.0),)),
    "clears": Trip("long", 0, (target("Shelf", "other", *square(2.6, 3.0, 1.0), height_m=6.0),)),
    "ground": Trip("cherry", 0, (pick(point={"member": "", "at_m": 5.6}, slack_m=3.0),)),
    "way_unknown": Trip("cherry", 5, (pick(method="negative", tie_m=0.3, point={"member": "", "at_m": 9.5},
    bearing_deg=None),),
                        (pick(method="negative", tie_m=0.3, point={"member": "", "at_m": 9.5}),)),
    "meets_stem": Trip("long", 0, (pick(slack_m=1.5),)),
    "touches": Trip("long", 0, (pick(slack_m=6.0),)),
    "rope_through": Trip("long", 0, (limb("Between", at_m=8.0, azimuth_deg=40, rise_deg=10, length_m=4.0,
    diameter_m=0.12, kind="measured"),)),
    "catches": Trip("long", 0, (limb("Below it", at_m=3.2, azimuth_deg=38, rise_deg=20, length_m=5.0, diameter_m=0.12,
    kind="measured"),)),
    "put_on": Trip("long", 0, (target("Frame", "building", *square(0.5, 1.0, 1.0), height_m=0.8),)),
    "tag": Trip("long", 0, (pick(landing_m=[7.0, 7.0], tag_from_m=[9.0, 9.0]),)),
    "tag_steep": Trip("long", 0, (pick(landing_m=[3.0, 3.0], tag_from_m=[3.1, 3.2]),), (pick(landing_m=[1.0, 1.0],
    tag_from_m=[8.0, 8.0]),), (*BAD, *NEAR)),
    "drops_on": Trip("cherry", 6, (target("Table", "other", *square(0.0, -2.0), height_m=0.8),)),
    "rolls": Trip("rings", 5, (pick(bed="none", bed_depth_m=None, bed_radius_m=None),
    ("site", {"slope_deg": 14.0, "downhill_deg": 90.0}),
    target("Frame", "building", *square(8.0, 0.0, 2.0), height_m=1.0))),
    "bed_small": Trip("rings", 4, (pick(bed_radius_m=0.6),), (), NEAR),
    "toss_heavy": Trip("cherry", 4, (limb("High", diameter_m=0.15, length_m=4.5),)),
    "second_tie": Trip("long", 0, (pick(method="bridle", leg=None),), (pick(method="bridle", tie_m=1.2,
    second_tie_m=3.2),)),
    "hook": Trip("crane", 3, (pick(capacity_kg=None),)),
    "gear_refused": Trip("long", 0, (gear("Blue line", wear="poor"),)),
    "chain": Trip("long", 0, (gear("Red sling", strength_N=9e3),)),
    "joined": Trip("long", 0, (gear("Blue line", joined=True),)),
    "leg_short": Trip("long", 0, (leg(0.01, 1.0), BRIDLED),
                      (leg(0.01, 9.0), BRIDLED)),
    "leg_slips": Trip("long", 0, (leg(0.014, 9.0), BRIDLED),
                      (leg(0.01, 9.0), BRIDLED)),
    "bent_sharply": Trip("long", 0, (gear("Big block", diameter_m=0.03),), (), (*BAD, *NEAR)),
    "connector_drop": Trip("long", 0, (SNAP, pick(connector="Snap", slack_m=1.5)),
                           (SNAP, pick(connector="Snap"))),
    "tie_in_gone": Trip("cherry", 7, (climber(tie_m=9.0),)),
    "stance_gone": Trip("cherry", 7, (climber(stance_m=8.5),)),
    "tie_in_thin": Trip("cherry", 0, (climber(tie_m=12.2),)),
    "tie_in_weak": Trip("cherry", 0, (climber(tie_member="High", tie_m=0.3), limb("High", union="cracked")),),
    "tie_in_other": Trip("cherry", 0, (ADJACENT, climber(tie_tree="Rigging lime", tie_m=14.0)), (), (*BAD, *NEAR)),
    "tie_in_bends": Trip("cherry", 0, (climber(tie_member="South", tie_m=2.0),)),
    "one_attachment": Trip("rings", 5, (climber(lanyard=False),)),
    "line_short": Trip("cherry", 0, (climber(line_m=9.0),)),
    "line_at_cut": Trip("long", 0, (climber(side_deg=40),)),
    "reach": Trip("long", 0, (climber(stance_m=2.5),)),
    "piece_at_climber": Trip("long", 0, (climber(stance_m=6.3, side_deg=60),)),
    "piece_at_line": Trip("long", 0, (climber(stance_m=6.5, side_deg=40),)),
    "rope_at_climber": Trip("long", 0, (climber(stance_m=9.0, side_deg=40),)),
    "above_tie_in": Trip("cherry", 2, (climber(tie_m=5.0),)),
    "slip": Trip("long", 0, (climber(tie_member="West", tie_m=3.0, stance_m=5.0),)),
    "held_seen": Trip("cherry", 0, (seen("neighbours", response="Looked at"),)),
    "dead_last": Trip("cherry", 0, (limb("Dead stub", at_m=4.0, azimuth_deg=200, rise_deg=10, length_m=1.5,
    diameter_m=0.06, dead=True, kind="measured"),)),
    "climb_seen": Trip("cherry", 0, (seen("dead_tree"), tree(state="dead"))),
    "tie_seen": Trip("cherry", 0, (DEAD_TOP,)),
    "point_seen": Trip("cherry", 0, (DEAD_TOP,)),
    "climber_unsaid": Trip("lifted", 1, (pick(lift=False),)),
    "stance_weak": Trip("cherry", 0, (tree(cavities=[CRACK | {"across_m": 0.3, "high_m": 2.0}]),)),
    "lanyard_at_cut": Trip("cherry", 6, (climber(stance_m=7.95),)),
    "kerf_closes": Trip("cherry", 6, (tree(lean_deg=14.0, lean_azimuth_deg=10.0), pick(at_m=5.0))),
    "push_hard": Trip("cherry", 6, (pick(hinge_m=0.06),), (pick(hinge_m=0.004),)),
    "reversed_closes": Trip("cherry", 6, (pick(cut="reversed", opening_deg=50.0),), (pick(cut="reversed",
    opening_deg=100.0),)),
    "step_holds": Trip("cherry", 0, (pick(cut="step", overlap_m=0.004),)),
    "step_snaps": Trip("cherry", 6, (pick(cut="step", overlap_m=0.09),), (pick(cut="step", overlap_m=0.012),)),
    "top_splits": Trip("cherry", 0, (pick(cut="top", at_m=0.6),)),
    "steered_slack": Trip("long", 0, (pick(slack_m=0.4, bearing_deg=80.0),), (pick(slack_m=0.0, bearing_deg=80.0),)),
    "under_piece": Trip("long", 2, (pick(device_from_m=[-2.0, 2.0]),)),
    "recoil": Trip("long", 0, (pick(device_at=[0.0, -6.0, 1.0], device_from_m=[0.1, -7.0]),), (pick(device_at=[0.0,
    -6.0, 1.0], device_from_m=[-6.0, -6.0]),)),
    "outside_drop": Trip("cherry", 6, (target("Small zone", "drop_zone", *square(0.0, -2.0, 1.5)),)),
    "outside_landing": Trip("long", 0, (target("Mat", "landing_zone", *square(0.0, 0.0, 1.0)),), (target("Lawn",
    "landing_zone", *square(0.0, 0.0, 9.0)),)),
    "way_out": Trip("long", 0, (PASSAGE, pick(away="carried", handlers="Ash, Lin, Bo, Kit, Jo, Max")),
                    (PASSAGE, pick(away="cut_up")), (*BAD, *NEAR)),
    "machine_lift": Trip("long", 0, (pick(away="machine", capacity_kg=40.0),), (pick(away="machine",
    capacity_kg=400.0),)),
    "throat": Trip("long", 0, (pick(away="chipper", throat_m=0.1, handlers="Ash, Lin, Bo, Kit, Jo, Max"),),
    (pick(away="chipper", throat_m=0.3, handlers="Ash, Lin, Bo, Kit, Jo, Max"),)),
    "lift_heavy": Trip("long", 0, (pick(away="carried", handlers="Ash"),), (pick(away="cut_up", handlers="Ash"),)),
    "rope_rubs": Trip("long", 0, (target("Ridge", "building", *square(0.0, -3.0, 1.0), height_m=4.0),
    pick(device_at=[0.0, -6.0, 1.0])), (pick(device_at=[0.0, -6.0, 1.0]),)),
}  # fmt: skip


def _access(plan, number, what):
    plan["trees"][0]["takedown"]["access"] = what


_STEPS["access"] = _access
LIMITS = FELLED | TAKEN
