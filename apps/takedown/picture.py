"""The takedown drawn: the tree as it stands at a pick, the piece, its rope and way, the climber; from the side and above."""

import math

from apps.felling.wording import SHAPES
from apps.jobs.presenter import HEIGHT, WIDTH, frame_for
from apps.takedown.planner import USUAL
from cantrel.drawing import compass, fitted, label
from treecore.rigging.swing import drop_circle, swept
from treecore.takedown.members import place_on, thickness
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

    shown = {
        "frame": frame, "width": WIDTH, "height": HEIGHT, "kept": kept, "off": off, "ground": frame.y(0), "bar": frame.bar(system),
        "view": round(math.degrees(view)) % 360, "left": compass((view - math.pi / 2.0) % math.tau), "right": compass((view + math.pi / 2.0) % math.tau),
    }  # fmt: skip
    if row and row["step"]:
        piece = row["step"].piece
        shown |= {"cg": at(piece.cg), "cut": at(piece.butt), "mass": label(piece.mass.value, "mass", system)}
    worked = row["worked"] if row else None
    if worked and worked.forces:
        shown |= _rigged(worked, at)
    climber = row["pick"].climber if worked else None
    if climber:
        shown["climber"] = _climber(members, climber, at)
    return shown


def _rigged(worked, at):
    """Rope, point, force on it, and the way of the piece."""
    piece, pick, path = worked.piece, worked.pick, worked.path
    tie = tuple(b + w * pick.tie for b, w in zip(piece.butt, piece.way, strict=True))
    point, device = at(worked.point), at(pick.device_place)
    steps = list(zip(path.butt.tolist(), path.tip.tolist(), strict=True))
    return {
        "tie": at(tie), "point": point, "device": device, "fork": pick.point.fork, "own": pick.point.member is not None,
        "way": " ".join(f"{x},{y}" for x, y in (at(p) for p in path.cg.tolist())),
        "ghosts": [(*at(b), *at(t)) for b, t in steps[3:-1:5]],
    }  # fmt: skip


def _climber(members, climber, at):
    rows = members.rows
    if climber.stance_member not in rows or climber.tie_member not in rows:
        return None
    return {
        "stance": at(place_on(members, rows[climber.stance_member], climber.stance_at)),
        "tie": at(place_on(members, rows[climber.tie_member], climber.tie_at)),
    }


def above(scene, row, system):
    """The ground under a pick: targets, the swept way or where a free piece may come to."""
    site, tree = scene["site"], scene["tree"]
    far = max(0.75 * tree.height.value, 8.0)
    frame = fitted(
        400, 300, site.tree_x - far * 1.33, site.tree_x + far * 1.33, site.tree_y - far, site.tree_y + far, margin=2
    )
    worked = row["worked"] if row else None
    hit = {p.name for p in worked.passes if p.gap <= 0.0} if worked else set()
    shape = None
    if worked and worked.path is not None:
        shape = swept(worked.path)
    elif row and row["step"]:
        piece = row["step"].piece
        shape = drop_circle(piece.reach, piece.cg[2], (piece.cg[0], piece.cg[1]))
    ring = [] if shape is None else [(x + site.tree_x, y + site.tree_y) for x, y in shape.exterior.coords]
    return {
        "frame": frame, "stem": (frame.x(site.tree_x), frame.y(site.tree_y)), "swept": frame.points(ring), "bar": frame.bar(system),
        "targets": [{"points": frame.points(t.outline), "kind": t.kind, "name": t.name, "hit": t.name in hit, "at": _middle(frame, t.outline)} for t in site.targets],
    }  # fmt: skip


def _middle(frame, outline):
    xs, ys = zip(*outline, strict=True)
    x, y = frame.x(sum(xs) / len(xs)), frame.y(sum(ys) / len(ys))
    return (x, y) if 24 < x < frame.width - 24 and 12 < y < frame.height - 12 else None


def links(rows, system):
    """The chain of gear as bars in path order, the fullest marked."""
    known = [r for r in rows if r.allowed is not None]
    fullest = max(known, key=lambda r: r.demand.value / r.allowed.value, default=None)
    out = []
    for r in rows:
        share = r.demand.value / r.allowed.value if r.allowed else None
        out.append(
            {
                "role": r.role, "name": r.name or "not chosen", "why": r.why, "shape": "over" if r.why and r.name else SHAPES[r.verdict], "weakest": r is fullest,
                "demand": label(r.demand.value, "force", system), "may": label(r.allowed.value, "force", system) if r.allowed else "not known",
                "wide": round(min(share or 0.0, 1.4) * 100), "raw": f"{r.demand.value:.9g}",
            }
        )  # fmt: skip
    return out


def listed(rows, orders, picked, system, words):
    """The picks in order with what each weighs and its ruling."""
    out = []
    for i, row in enumerate(rows):
        piece = row["step"].piece if row["step"] else None
        ruling = row["ruling"]
        out.append(
            {
                "n": i, "number": i + 1, "picked": i == picked, "what": row["entry"]["member"] or "stem", "at": label(row["entry"]["at_m"], "length", system),
                "mass": label(piece.mass.value, "mass", system) if piece else "", "raw": f"{piece.mass.value:.9g}" if piece else "",
                "method": words.method_name(row["entry"].get("method", USUAL["method"])),
                "shape": "over" if row["error"] else SHAPES[ruling.verdict] if ruling else "within",
                "said": words.refused(row["error"], system) if row["error"] else words.limit(ruling, system)["name"] if ruling and SHAPES[ruling.verdict] != "within" else "",
                "order": words.order(orders[i]) if i in orders else "",
            }
        )  # fmt: skip
    return out
