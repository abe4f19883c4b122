"""An awkward tree worked out apart from the core, from the formulas alone, with the stem integrated numerically.

Oval, leaning across the lay, on a slope, bare, crown plumbed off the stem, US breast height, line off the lay, side
wind.
"""

import json
import math
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np
from scipy.optimize import brentq

from treecore.formats.plan_document import evaluate_document

ROOT = Path(__file__).resolve().parents[3]
FELLING = {
    "lay_deg": 331, "stump_m": 0.62, "along_m": 1.04, "across_m": 0.87, "depth_m": 0.29, "opening_deg": 52,
    "hinge_m": 0.083,
    "rise_m": 0.04, "depth_school": "quarter", "wedges": {"count": 3, "stacked": 2, "rise_m": 0.022},
    "pull": {"tie_m": 9.7, "azimuth_deg": 352, "distance_m": 23, "anchor_m": -2.4, "force_N": 8300},
    "wind_m_s": 7, "wind_from_deg": 40,
}  # fmt: skip
TREE = {
    "name": "Odd oak", "species": "quercus_rubra", "state": "bare", "x_m": -3.2, "y_m": 1.7, "diameter_m": 0.913,
    "diameter_kind": "measured", "height_m": 19.4, "height_kind": "measured", "spread_m": 13.7, "lean_deg": 4.3,
    "lean_azimuth_deg": 17, "lean_kind": "measured", "crown_base_m": 6.1, "crown_east_m": -0.8, "crown_north_m": 0.35,
    "breast": "us", "felling": FELLING,
}  # fmt: skip
WALL = {"name": "Wall", "outline_m": [[-40, 3], [-39, 3], [-39, 40], [-40, 40]]}
DOCUMENT = {
    "schema": "cantrel-plan", "version": 3, "site": {"slope_deg": 11, "downhill_deg": 305, "targets": [WALL]},
    "trees": [TREE],
}  # fmt: skip


def stem():
    """Volume above the ground and above the cut, and its moment, by the trapezoid rule; Ormerod's curve."""

    def area(z):
        return math.pi / 4 * (0.913 * ((19.4 - z) / (19.4 - 1.3716)) ** 0.8) ** 2

    whole, above = np.linspace(0.0, 19.4, 400001), np.linspace(0.62, 19.4, 400001)
    return np.trapezoid(area(whole), whole), np.trapezoid(area(above), above), np.trapezoid(area(above) * above, above)


def crown(whole):
    """Crown mass: published dry ratios at 91.3 cm, leafless; group scale 1.2; spread against 18 diameters."""
    leaves, bark, wood = (math.exp(a + b / 91.3) for a, b in ((-4.0813, 5.8816), (-2.0129, -1.6805), (-0.3065, -5.424)))
    ratio = (1 - leaves - bark - wood) / (bark + wood)
    return whole * 1010 * ratio * 1.2 * 13.7 / (18 * 0.913)


def by_hand():
    whole, volume, moment = stem()
    top = crown(whole)
    depth = 19.4 - 6.1
    crown_up = 6.1 + 0.45 * depth
    mass = volume * 1010 + top
    up = (moment * 1010 + top * crown_up) / mass - 0.62
    turn, lean, lay = math.radians(17 - 331), math.tan(math.radians(4.3)), math.radians(331)
    along, across = lean * math.cos(turn), lean * math.sin(turn)
    crown_along = 0.35 * math.cos(lay) - 0.8 * math.sin(lay)
    crown_across = -0.8 * math.cos(lay) - 0.35 * math.sin(lay)
    x, y = up * along + top / mass * crown_along, up * across + top / mass * crown_across
    pivot = 1.04 / 2 - 0.29 - 0.083 / 2
    back, weight = pivot - x, mass * 9.80665
    f = 0.29 / 1.04
    length = 2 * 0.87 * math.sqrt(f - f * f)
    # Bark, 3.5 % of the diameter on each side, holds nothing: the chord of the smaller oval at the same apex.
    inner = 1.04 * 0.93 / 2
    sound = 0.87 * 0.93 * math.sqrt(1 - ((1.04 / 2 - 0.29) / inner) ** 2)
    bends = 57e6 * sound * 0.083**2 / 6
    # Leafless outline, felt to 45 %, round its middle; and the bare stem below the crown.
    z = np.linspace(0.62, 6.1, 400001)
    thick = 0.913 * ((19.4 - z) / (19.4 - 1.3716)) ** 0.8
    outline = 13.7 * depth * math.pi / 4 * 0.45
    area = outline + np.trapezoid(thick, z)
    arm = (outline * (6.1 + depth / 2 - 0.62) + np.trapezoid(thick * (z - 0.62), z)) / area
    gust = 0.5 * 1.25 * 0.6 * (7 * 1.5) ** 2 * area * arm
    # The wind comes from 69° off the lay to the right; gusts from 30° to either side of that: 39° off against, 90°
    # across.
    against, across_gust = gust * math.cos(math.radians(39)), gust
    way = math.radians(352 - 331)
    # To either side: the lean, and with it the tie, half a degree and the line two degrees further over.
    pulls = {s: line_moments(along, across + s * math.tan(0.0105), pivot, way + s * 0.0349) for s in (-1, 0, 1)}
    pull_along, pull_across, _, _ = pulls[0]
    tip = weight * back + against
    inside = 0.10
    lever = 1.04 / 2 - inside + pivot
    at_hand = pull_along + 3 * 15000 * lever
    reach = math.hypot(back, up)
    turn = math.atan2(back, up) + math.asin((bends + against) / (weight * reach))
    under = max(tip + bends - pull_along, 0.0) / lever
    scene = {
        "weight": weight,
        "length": sound,
        "gust": across_gust,
        "arm": arm,
        "turn": min(turn, math.radians(52), 0.9599),
        "offset": {s: s * (y + s * (up * math.tan(0.0105) + top / mass * 0.5 * 0.05 * 13.7)) for s in (1, -1)},
        "pulls": pulls,
    }
    return {
        "mass": mass,
        "cg_height": up,
        "cg_along": x,
        "cg_across": y,
        "back_offset": back,
        "hinge_length": length,
        "hinge_moment": bends,
        "wind_along": -against,
        "wind_with": gust * math.cos(math.radians(81)),  # 99° off the lay: a little from behind
        "wind_across": across_gust,
        "pull_along": pull_along,
        "needed": tip + bends,
        "available": at_hand,
        "margin": at_hand - tip - bends,
        "side_moment": weight * y + pull_across,
        "thin": thinnest(scene),
        "thick": math.sqrt(6 * (at_hand - tip) / (57e6 * sound)),
        "lift": lever * math.tan(turn),
        "wedge_force": under,
        "closing": math.radians(52) + math.atan(along),
        "commit": turn + math.atan(along),
        "ground": math.radians(90) + math.atan(math.tan(math.radians(11)) * math.cos(math.radians(331 - 305))),
        "zone": 1.5 * 19.4 * 1.08,
        "length": 19.4 - 0.62,
    }


def line_moments(along, across, pivot, way):
    """Moments of the line about the hinge along and across, and its level force along and across."""
    tie = np.array([along * 9.08 - pivot, across * 9.08, 9.08])
    line = np.array([23 * math.cos(way) - pivot, 23 * math.sin(way), -2.4 - 0.62]) - tie
    force = 8300 * line / np.linalg.norm(line)
    level = 8300 * 23 / math.hypot(23, -2.4 - 9.7)
    moments = tie[2] * force[0] - tie[0] * force[2], tie[2] * force[1] - tie[1] * force[2]
    return (*moments, level * math.cos(way), level * math.sin(way))


def thinnest(scene):
    """Thin limit by root finding: northern red oak, half kept; both sides, upright, half way and
    where the turn ends.
    """
    length, answers = scene["length"], [0.015, 1.04 / 25]
    for side in (1, -1):
        offset = scene["offset"][side]
        moments = scene["pulls"][side]
        for share in (0.0, 0.5, 1.0):
            turn = share * scene["turn"]
            moment = scene["weight"] * offset * math.cos(turn) + scene["gust"] + max(side * moments[1], 0.0)
            twist = max(scene["weight"] * offset * math.sin(turn), 0.0)
            level = max(side * moments[3], 0.0) + scene["gust"] / scene["arm"]
            shear = math.hypot(level, max(moments[2], 0.0) + scene["weight"] * math.sin(turn))
            press = scene["weight"] * math.cos(turn)

            def use(t, moment=max(moment, 0.0), twist=twist, shear=shear, press=press):
                bent = moment / (0.5 * 57e6 * t * length**2 / 6) + (press / (23.7e6 * t * length)) ** 2
                turned = twist / (8.3e6 * t * t * (3 * length - t) / 6) + (1.5 * shear / (8.3e6 * t * length)) ** 2
                return bent**2 + turned**2 - 1

            answers.append(brentq(use, 1e-5, 0.5, xtol=1e-13))
            if twist:
                answers.append(
                    brentq(lambda t, m=twist: 8.3e6 * t * t * (3 * length - t) / 6 - m, 1e-7, 0.5, xtol=1e-13)
                )
    return max(answers)


class OddOak(TestCase):
    def test_every_figure(self):
        figures = evaluate_document(DOCUMENT)["trees"][0]["felling"]["figures"]
        for key, value in by_hand().items():
            with self.subTest(figure=key):
                got = figures[key]
                self.assertAlmostEqual(got["value"], value, delta=1e-5 * abs(value) + 1e-9)
                self.assertTrue(got["low"] <= got["value"] <= got["high"])

    def test_the_command_line_prints_the_same(self):
        with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
            json.dump(DOCUMENT, file)
            file.flush()
            done = subprocess.run(
                [sys.executable, "-m", "treecore", "evaluate", file.name],
                cwd=ROOT,
                capture_output=True,
                text=True,
                check=True,
            )
        self.assertEqual(json.loads(done.stdout), evaluate_document(DOCUMENT))
