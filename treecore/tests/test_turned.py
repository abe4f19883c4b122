"""Lines turned along with the lay, against a hand calculation and the plain distance."""

import math
from unittest import TestCase

from treecore.felling.turned import line_end, stays, turned_place


class Turned(TestCase):
    def test_a_part_due_north_goes_east_with_a_quarter_turn(self):
        east, north = turned_place((3.0, 12.0), (3.0, 2.0), math.pi / 2.0, ())
        self.assertAlmostEqual(east, 13.0)
        self.assertAlmostEqual(north, 2.0)

    def test_either_way_the_way_to_the_stem_stays_and_the_bearing_turns(self):
        stem, place = (-2.0, 5.0), (11.0, -7.5)
        for turn in (-0.4, 0.07, 1.9):
            east, north = turned_place(place, stem, turn, ())
            self.assertAlmostEqual(math.dist((east, north), stem), math.dist(place, stem))
            was = math.atan2(place[0] - stem[0], place[1] - stem[1])
            now = math.atan2(east - stem[0], north - stem[1])
            self.assertAlmostEqual((now - was - turn + math.pi) % math.tau, math.pi)

    def test_what_stands_at_a_place_of_the_site_stays(self):
        self.assertEqual(turned_place((10.0, 0.9), (0.0, 0.0), 0.3, [(10.0, 0.0)]), (10.0, 0.9))
        self.assertNotEqual(turned_place((10.0, 1.3), (0.0, 0.0), 0.3, [(10.0, 0.0)]), (10.0, 1.3))

    def test_the_end_of_a_line(self):
        east, north = line_end((1.0, 1.0), math.radians(210.0), 8.0)
        self.assertAlmostEqual(east, 1.0 - 4.0)
        self.assertAlmostEqual(north, 1.0 - 8.0 * math.sqrt(3.0) / 2.0)
        self.assertTrue(stays((0.0, 0.0), [(0.0, 1.19)]))
        self.assertFalse(stays((0.0, 0.0), [(0.0, 1.21)]))
