"""A place as others read it: degrees and minutes by hand, the metric grid by the series written out."""

import math
import unittest

from treecore.errors import OutOfRange
from treecore.formats.grid import degrees_and_minutes, metric_grid


def by_series(latitude, longitude):
    """Krüger's series to the fourth order, on the ellipsoid of WGS 84 (Karney 2011, Journal of Geodesy 85, 475)."""
    a, f = 6378137.0, 1 / 298.257223563
    n = f / (2 - f)
    zone = int((longitude + 180) // 6) + 1
    lam = math.radians(longitude - (zone * 6 - 183))
    e = math.sqrt(f * (2 - f))
    phi = math.radians(latitude)
    t = math.sinh(math.atanh(math.sin(phi)) - e * math.atanh(e * math.sin(phi)))
    xi, eta = math.atan2(t, math.cos(lam)), math.asinh(math.sin(lam) / math.hypot(t, math.cos(lam)))
    radius = a / (1 + n) * (1 + n**2 / 4 + n**4 / 64)
    alpha = (
        n / 2 - 2 * n**2 / 3 + 5 * n**3 / 16 + 41 * n**4 / 180,
        13 * n**2 / 48 - 3 * n**3 / 5 + 557 * n**4 / 1440,
        61 * n**3 / 240 - 103 * n**4 / 140,
        49561 * n**4 / 161280,
    )
    north, east = xi, eta
    for k, value in enumerate(alpha, start=1):
        north += value * math.sin(2 * k * xi) * math.cosh(2 * k * eta)
        east += value * math.cos(2 * k * xi) * math.sinh(2 * k * eta)
    return zone, 500000 + 0.9996 * radius * east, 0.9996 * radius * north + (10_000_000 if latitude < 0 else 0)


class Grid(unittest.TestCase):
    def test_degrees_and_minutes_by_hand(self):
        """0.41237° are 24.742 minutes; −0.18405° are 11.043 west; a whole minute rounds up to the next degree."""
        self.assertEqual(degrees_and_minutes(52.41237, -2.18405), "52° 24.742′ N 2° 11.043′ W")
        self.assertEqual(degrees_and_minutes(-0.99999999, 0.0), "1° 00.000′ S 0° 00.000′ E")
        with self.assertRaises(OutOfRange):
            degrees_and_minutes(91.0, 0.0)

    def test_metric_grid_by_the_series(self):
        for latitude, longitude, band in (
            (52.41237, -2.18405, "U"),
            (-33.9, 151.2, "H"),
            (5.0, -75.5, "N"),
            (79.0, 11.0, "X"),
        ):
            with self.subTest(latitude=latitude):
                zone, east, north = by_series(latitude, longitude)
                named, said_east, said_north = metric_grid(latitude, longitude).split()
                self.assertEqual(named, f"{zone}{band}")
                self.assertAlmostEqual(int(said_east), east, delta=0.6)
                self.assertAlmostEqual(int(said_north), north, delta=0.6)

    def test_near_the_poles_there_is_none(self):
        self.assertEqual(metric_grid(85.0, 10.0), "")
        self.assertEqual(metric_grid(0.0, 180.0).split()[0], "60N")
