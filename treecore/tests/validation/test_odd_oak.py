"""An awkward tree worked out apart from the core, from the formulas alone, with the stem integrated numerically.

Oval, leaning across the lay, on a slope, bare, crown plumbed off the stem, US breast height, line off the lay, side wind.
"""

import json
import math
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np

from treecore.formats.plan_document import evaluate_document

ROOT = Path(__file__).resolve().parents[3]
FELLING = {
    "lay_deg": 331, "stump_m": 0.62, "along_m": 1.04, "across_m": 0.87, "depth_m": 0.29, "opening_deg": 52, "hinge_m": 0.083,
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
    "schema": "cantrel-plan", "version": 1, "site": {"slope_deg": 11, "downhill_deg": 305, "targets": [WALL]}, "trees": [TREE],
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
    bends = 57e6 * length * 0.083**2 / 4
    # Leafless outline, felt to 45 %, round its middle; and the bare stem below the crown.
    z = np.linspace(0.62, 6.1, 400001)
    thick = 0.913 * ((19.4 - z) / (19.4 - 1.3716)) ** 0.8
    outline = 13.7 * depth * math.pi / 4 * 0.45
    area_moment = outline * (6.1 + depth / 2 - 0.62) + np.trapezoid(thick * (z - 0.62), z)
    wind = 0.5 * 1.25 * 0.6 * 7**2 * area_moment
    wind_along, wind_across = (wind * g(math.radians(40 + 180 - 331)) for g in (math.cos, math.sin))
    tie = np.array([along * 9.08 - pivot, across * 9.08, 9.08])
    off = math.radians(352 - 331)
    line = np.array([23 * math.cos(off) - pivot, 23 * math.sin(off), -2.4 - 0.62]) - tie
    force = 8300 * line / np.linalg.norm(line)
    pull_along, pull_across = tie[2] * force[0] - tie[0] * force[2], tie[2] * force[1] - tie[1] * force[2]
    tip = weight * back - wind_along
    lever = 1.04 / 2 + pivot
    at_hand = pull_along + 3 * 15000 * lever
    side = weight * y + wind_across + pull_across
    reach = math.hypot(back, up)
    return {
        "mass": mass,
        "cg_height": up,
        "cg_along": x,
        "cg_across": y,
        "back_offset": back,
        "hinge_length": length,
        "hinge_moment": bends,
        "wind_along": wind_along,
        "pull_along": pull_along,
        "needed": tip + bends,
        "available": at_hand,
        "margin": at_hand - tip - bends,
        "side_moment": side,
        "thin": 6 * abs(side) / (0.5 * 57e6 * length**2),
        "thick": math.sqrt(4 * (at_hand - tip) / (57e6 * length)),
        "thick_yield": math.sqrt(6 * (at_hand - tip) / (57e6 * length)),
        "lift": 0.0,  # it leans forward: nothing to lift
        "wedge_force": (tip + bends - pull_along) / lever,
        "closing": math.radians(52) + math.atan(along),
        "commit": math.atan2(back, up) + math.asin((bends + max(-wind_along, 0)) / (weight * reach)) + math.atan(along),
        "ground": math.radians(90) + math.atan(math.tan(math.radians(11)) * math.cos(math.radians(331 - 305))),
        "zone": 1.5 * 19.4 * 1.08,
        "length": 19.4 - 0.62,
    }


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
