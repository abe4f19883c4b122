"""The takedown drawn: the tree as it stands at a pick, the piece, its rope and way, the climber; from the side and
above.
"""

import math

from apps.jobs.presenter import HEIGHT, WIDTH, frame_for
from apps.takedown.planner import USUAL, climber_of, people_of, slip_path, usual_view, whole_tree
from cantrel.drawing import compass, fitted, label, spaced
from cantrel.limits import PARTS, SHAPES
from treecore.rigging.bending import split_along
from treecore.rigging.swing import drop_circle, swept
from treecore.takedown.members import place_on, thickness
from treecore.takedown.pick import hold_place, point_place, redirect_place, tie_place
from treecore.tree.shaping import seen


def _spar(members, row, low, high, view, frame):
    """A length of a member as a narrow shape in the picture."""
    ends = []
    for along in (low, high):
        x, y, z = place_on(members, row, along)
        ends.append((seen(view, x, y), z, thickness(members, row, min(along, 0.995 * float(members.end[row])))))
    (x0, z0, w0), (x1, z1, w1) = ends
    run = math.hypot(x1 - x0, z1 - z0) or 1.0
    nx, nz = -(z1 - z0) / run / 2.0, (x1 - x0) / run / 2.0
    return frame.points(
        [
            (x0 + nx * w0, z0 + nz * w0),
            (x0 - nx * w0, z0 - nz * w0),
            (x1 - nx * w1, z1 - nz * w1),
            (x1 + nx * w1, z1 + nz * w1),
        ]
    )


def _standing(members, before, after, view, frame):
    """What stands before a pick: what stays, and what comes off."""
    kept, off = [], []
    for row, end in enumerate(before.ends):
        if end <= 0.0:
            continue
        stays = min(max(after.ends[row], 0.0), end)
        style = "stem" if row == 0 else "assumed" if members.assumed[row] else "measured"
        if stays > 0.01:
            kept.append(
                {
                    "points": _spar(members, row, 0.0, stays, view, frame),
                    "style": style,
                    "name": members.names[row] or "stem",
                }
            )
        if end - stays > 0.01:
            off.append(
                {
                    "points": _spar(members, row, stays, end, view, frame),
                    "style": style,
                    "name": members.names[row] or "stem",
                }
            )
    return kept, off


def _close(row, view):
    """A frame round the piece, its rope and the climber."""
    piece, worked = row["step"].piece, row["worked"]
    places = [piece.butt, piece.tip, piece.cg]
    if worked and worked.point:
        places += [worked.point, *worked.path.tip[::6].tolist(), *worked.path.butt[::6].tolist()]
    xs, zs = [seen(view, p[0], p[1]) for p in places], [p[2] for p in places]
    return fitted(WIDTH, HEIGHT - 30, min(xs) - 1.2, max(xs) + 1.2, min(zs) - 1.2, max(zs) + 1.2, margin=20)


def elevation(scene, row, view, system, near=False):
    """The tree as it stands at a pick, seen from a side."""
    members = scene["members"]
    frame = _close(row, view) if near and row and row["step"] else frame_for(scene["tree"])
    before, after = (row["before"], row["after"]) if row else (scene["start"], scene["start"])
    kept, off = _standing(members, before, after, view, frame)

    def at(place):
        return frame.x(seen(view, place[0], place[1])), frame.y(place[2])

    worked = row["worked"] if row else None
    shown = {
        "frame": frame,
        "width": WIDTH,
        "height": HEIGHT,
        "kept": kept,
        "off": off,
        "ground": frame.y(0),
        "bar": frame.bar(system),
        "leaves": _leaves(members, before, after, at, frame),
        "met": {members.names[m.row] for m in worked.meets if not m.carries} if worked else set(),
        "view": round(math.degrees(view)) % 360,
        "left": compass((view - math.pi / 2.0) % math.tau),
        "right": compass((view + math.pi / 2.0) % math.tau),
    }
    if row and row["step"]:
        piece = row["step"].piece
        shown |= {"cg": at(piece.cg), "cut": at(piece.butt), "mass": label(piece.mass.value, "mass", system)}
    if worked and worked.forces:
        shown |= _rigged(members, row, at, system) | {"arrow": _arrow(members, worked, view, at, system)}
    aloft = climber_of(scene, row) if row else None
    if aloft:
        shown["climber"] = _climber(aloft, row["pick"].climber, at)
    labels = spaced(_knobs(shown), WIDTH)
    return shown | {
        name: [k for k in labels if (k["name"] in _TEXTS) == told] for name, told in (("knobs", False), ("texts", True))
    }


_TEXTS = ("force", "mass", "weak")  # labels of what is drawn without a handle


def _knobs(shown):
    """Handles of the picture: name, label, place, side of its label."""
    climber, arrow = shown.get("climber") or {}, shown.get("arrow")
    weak = shown.get("weak")
    rows = [
        ("weak", f"bends most here: {shown.get('weakly')}", weak and (shown["weakat"] + 27, weak), "start"),
        ("mass", shown.get("mass"), shown.get("cg"), "start"),
        ("force", arrow and arrow["text"], arrow and arrow["to"], "start"),
        ("cut", "Cut", shown.get("cut"), "end"),
        ("tie", "Tie", shown.get("tie"), "start"),
        ("point", "Rigging point", shown.get("point") if shown.get("own") else None, "start"),
        ("redirect", "Led over", shown.get("led"), "start"),
        ("tie_in", "Tie-in", climber.get("tie") if climber.get("own") else None, "end"),
        ("stance", "Climber", climber.get("stance"), "end"),
        ("second_in", "Second tie-in", climber.get("second") if climber.get("second_own") else None, "end"),
    ]
    return [row for row in rows if row[2]]


def _leaves(members, before, after, at, frame):
    """Foliage as broad soft strokes along the outer part of each leafy limb: what stays, what comes off."""
    out = []
    for row, end in enumerate(before.ends):
        if row == 0 or end <= 0.0 or members.leaves[row] <= 0.0:
            continue
        full = float(members.end[row])
        if end < 0.5 * full:
            continue
        ends = [at(place_on(members, row, along)) for along in (0.45 * full, end)]
        off = after.ends[row] < 0.45 * full
        out.append(
            {
                "line": (*ends[0], *ends[1]),
                "wide": frame.size(min(0.28 * full, 2.4, 0.3 + 0.5 * (end - 0.45 * full))),
                "off": off,
            }
        )
    return out


def _rigged(members, row, at, system):
    """Rope, point, and the way of the piece."""
    worked = row["worked"]
    pick, path = worked.pick, worked.path
    stops = [hold_place(worked.piece, pick), worked.point]
    led = redirect_place(members, row["after"], pick)
    stops += [led] if led else []
    steps = list(zip(path.butt.tolist(), path.tip.tolist(), strict=True))
    far = (
        point_place(members, row["after"], pick.far_anchor, "far_anchor")
        if worked.forces.on_far_anchor is not None
        else None
    )
    weak = worked.forces.anchor
    return {
        "tie": at(tie_place(worked.piece, pick.tie)),
        "legs": _legs(worked, at),
        "point": at(worked.point),
        "device": at(pick.device_place),
        "own": pick.point.member is not None,
        "led": at(led) if led else None,
        "rope": "L".join("{} {}".format(*at(p)) for p in (*stops, pick.device_place)),
        "far": (*at(worked.point), *at(far)) if far else None,
        "sweptside": " ".join(
            f"{x},{y}" for x, y in (at(p) for p in [*path.tip.tolist(), *reversed(path.butt.tolist())])
        ),
        "way": " ".join(f"{x},{y}" for x, y in (at(p) for p in path.cg.tolist())),
        "ghosts": [(*at(b), *at(t)) for b, t in steps[3:-1:5]],
        "weak": at((0.0, 0.0, weak.height))[1] if weak and pick.point.member is not None else None,
        "weakat": round(at((0.0, 0.0, 0.0))[0]),
        "weakly": label(weak.stress, "fine_strength", system) if weak else "",
    }


def _legs(worked, at):
    """A bridle's legs from its head to both ties."""
    pick, piece = worked.pick, worked.piece
    if pick.method != "bridle" or pick.second_tie is None:
        return []
    head = at(hold_place(piece, pick))
    return [(*head, *at(tie_place(piece, tie))) for tie in (pick.tie, pick.second_tie)]


_ARROW = 74.0  # points on the picture for the force on the rigging point


def _arrow(members, worked, view, at, system):
    """The force on the rigging point as an arrow, and its parts along and across what carries it."""
    force, anchor, point = worked.forces.force, worked.forces.anchor, worked.pick.point
    size = math.hypot(*force) or 1.0
    x, y = at(worked.point)

    def end(vector):
        return (
            round(x + seen(view, vector[0], vector[1]) / size * _ARROW, 1),
            round(y - vector[2] / size * _ARROW, 1),
        )

    way = members.way[members.rows[point.member]] if point.member in members.rows else (0.0, 0.0, 1.0)
    said = label(size, "force", system)
    if anchor:
        said += f", {label(anchor.across, 'force', system)} across"
    return {"from": (x, y), "to": end(force), "corner": end(split_along(force, way)), "text": said}


def way_up(scene, access, system):
    """The whole tree with the first line over its fork."""
    members, view = scene["members"], usual_view(scene["tree"])
    frame, start = frame_for(scene["tree"]), whole_tree(scene)
    kept, _ = _standing(members, start, start, view, frame)

    def at(place):
        return frame.x(seen(view, place[0], place[1])), frame.y(place[2])

    shown = {
        "width": WIDTH,
        "height": HEIGHT,
        "kept": kept,
        "ground": frame.y(0),
        "bar": frame.bar(system),
        "leaves": _leaves(members, start, start, at, frame),
    }
    row = members.rows.get(access.get("member", ""), -1)
    if access.get("way") != "throw" or row < 0:
        return shown
    place = place_on(members, row, access["at_m"])
    fork, foot = at(place), frame.y(0.0)
    line = f"{fork[0] - 14} {foot}L{fork[0]} {fork[1]}L{fork[0] + 14} {foot}"
    return shown | {"fork": fork, "line": line, "high": label(place[2], "length", system)}


def numbered(scene, rows, system):
    """The whole tree with every cut at its place, numbered in order."""
    members, view = scene["members"], usual_view(scene["tree"])
    start = whole_tree(scene)
    ends = [place_on(members, row, end) for row, end in enumerate(start.ends)]
    xs = [0.0, *(seen(view, x, y) for x, y, _ in ends)]
    frame = fitted(WIDTH, HEIGHT, min(xs) - 0.5, max(xs) + 0.5, -0.8, max(z for _, _, z in ends) + 0.3, margin=12)
    kept, _ = _standing(members, start, start, view, frame)
    cuts = []
    for number, row in enumerate(rows, start=1):
        if row["step"]:
            place = row["step"].piece.butt
            cuts.append(
                (
                    str(number),
                    str(number),
                    (frame.x(seen(view, place[0], place[1])), frame.y(place[2])),
                    "start" if number % 2 else "end",
                )
            )
    return {
        "width": WIDTH,
        "height": HEIGHT,
        "kept": kept,
        "ground": frame.y(0),
        "bar": frame.bar(system),
        "cuts": spaced(cuts, WIDTH, gap=15, letter=10),
        "left": compass((view - math.pi / 2.0) % math.tau),
        "right": compass((view + math.pi / 2.0) % math.tau),
    }


def _climber(aloft, climber, at):
    return {
        "stance": at(aloft.stance),
        "tie": at(aloft.tie),
        "second": at(aloft.second) if aloft.second else None,
        "slip": " ".join(f"{x},{y}" for x, y in (at(p) for p in slip_path(aloft))),
        "own": climber.place is None,
        "second_own": climber.second_place is None,
    }


def above(scene, row, system):
    """The ground under a pick: targets, the swept way or where a free piece may come to, rope, landing, notch."""
    site = scene["site"]
    worked = row["worked"] if row else None
    shape = _ground_shape(row, worked)
    ring = [] if shape is None else [(x + site.tree_x, y + site.tree_y) for x, y in shape.exterior.coords]
    stands = [s.place for s in people_of(scene, row)[0]] if worked else []
    frame = _around(site, [*ring, *_touched(site, worked), *stands])
    hit = {p.name for p in worked.passes if p.gap <= 0.0} if worked else set()

    def at(place):
        return frame.x(place[0] + site.tree_x), frame.y(place[1] + site.tree_y)

    shown = {
        "frame": frame,
        "stem": (frame.x(site.tree_x), frame.y(site.tree_y)),
        "swept": frame.points(ring),
        "bar": frame.bar(system),
        "targets": [
            {
                "points": frame.points(t.outline),
                "kind": t.kind,
                "name": t.name,
                "hit": t.name in hit,
                "at": _middle(frame, t.outline),
            }
            for t in site.targets
        ],
        "others": [{"at": at((t.east, t.north)), "name": t.name} for t in scene["others"]],
    }
    shown |= _people(scene, row, site, frame) if worked else {}
    aloft = climber_of(scene, row) if worked else None
    if aloft:
        shown["climber"] = (*at(aloft.tie), *at(aloft.stance))
    return shown | (_from_above(worked, frame, at) if worked else {})


STAND = {"device": "at the device", "tag": "at the tag line"}


def _people(scene, row, site, frame):
    """Who stands where on the ground, and the strips along tight ropes that stay empty."""
    stands, strips = people_of(scene, row)
    return {
        "people": [
            {"at": (frame.x(s.place[0]), frame.y(s.place[1])), "role": STAND[s.role], "said": s.said} for s in stands
        ],
        "strips": [frame.points(strip.exterior.coords) for strip in strips if strip.geom_type == "Polygon"],
    }


def _ground_shape(row, worked):
    """Ground under the way of a piece, or where one that falls may come to, from the stem's foot."""
    if worked and worked.path is not None:
        return swept(worked.path)
    if row and row["step"] and row["entry"].get("method") == "free":
        piece = row["step"].piece
        return drop_circle(piece.reach, piece.cg[2], (piece.cg[0], piece.cg[1]))
    return None


def _touched(site, worked):
    """Places on the ground that a pick needs in sight."""
    if worked is None or worked.path is None:
        return []
    pick = worked.pick
    places = [worked.point, pick.device_place, *([pick.landing] if pick.landing else [])]
    return [(p[0] + site.tree_x, p[1] + site.tree_y) for p in places]


def _around(site, places):
    """A frame round the stem that shows all places and what stands near them."""
    far = max([5.0, *(max(abs(x - site.tree_x) / 1.2, abs(y - site.tree_y)) + 2.5 for x, y in places)])
    return fitted(
        400, 300, site.tree_x - far * 1.33, site.tree_x + far * 1.33, site.tree_y - far, site.tree_y + far, margin=2
    )


_NOTCH = 2.5  # how far from the cut the handle of the way a notch faces is drawn [m]


def _from_above(worked, frame, at):
    """Rope, device, landing and the way the notch faces, from above."""
    piece, pick = worked.piece, worked.pick
    shown = (
        {"bed": (*at(piece.cg), frame.size(pick.bed_radius))} if pick.method == "free" and pick.bed != "none" else {}
    )
    if worked.path is None:
        return shown
    bearing = pick.bearing if pick.bearing is not None else math.atan2(piece.way[0], piece.way[1])
    faces = (piece.butt[0] + _NOTCH * math.sin(bearing), piece.butt[1] + _NOTCH * math.cos(bearing))
    stops = [hold_place(piece, pick), worked.point, pick.device_place]
    return shown | {
        "rope": " ".join("{},{}".format(*at(p)) for p in stops),
        "butt": at(piece.butt),
        "known": pick.bearing is not None,
        "tag": pick.landing is not None and (*at(worked.point), *at(pick.landing)),
        "way": at(faces),
        "knobs": spaced(
            [
                ("faces", "Notch faces", at(faces), "start"),
                ("device", "Device", at(pick.device_place), "end"),
                ("landing", "Put down", at(pick.landing or worked.point), "start"),
            ],
            400,
        ),
    }


def _middle(frame, outline):
    xs, ys = zip(*outline, strict=True)
    x, y = frame.x(sum(xs) / len(xs)), frame.y(sum(ys) / len(ys))
    return (x, y) if 24 < x < frame.width - 24 and 12 < y < frame.height - 12 else None


def links(rows, system):
    """The chain of gear as bars in path order, the fullest marked."""
    fullest = max((r for r in rows if r.share is not None), key=lambda r: r.share, default=None)
    out = []
    for r in rows:
        out.append(
            {
                "role": PARTS.get(r.role, r.role),
                "name": r.name or "not chosen",
                "why": r.why,
                "shape": "over" if r.why and r.name else SHAPES[r.verdict],
                "weakest": r is fullest,
                "demand": label(r.demand.value, "force", system),
                "may": label(r.allowed.value, "force", system) if r.allowed else "not known",
                "share": f"{100 * r.share:.0f} %" if r.share is not None else "",
                "wide": round(min(r.share or 0.0, 1.4) * 100),
                "raw": f"{r.demand.value:.9g}",
            }
        )
    return out


def listed(rows, orders, picked, system, words):
    """The picks in order with what each weighs and its ruling."""
    out = []
    for i, row in enumerate(rows):
        piece = row["step"].piece if row["step"] else None
        shape, said = words.verdict(row, system)
        out.append(
            {
                "n": i,
                "id": row["entry"].get("id", ""),
                "number": i + 1,
                "picked": i == picked,
                "what": row["entry"]["member"] or "stem",
                "at": label(row["entry"]["at_m"], "length", system),
                "mass": label(piece.mass.value, "mass", system) if piece else "",
                "raw": f"{piece.mass.value:.9g}" if piece else "",
                "method": words.method_name(row["entry"].get("method", USUAL["method"])),
                "shape": shape,
                "said": said,
                "order": words.order(orders[i]) if i in orders else "",
            }
        )
    return out
