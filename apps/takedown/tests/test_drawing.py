"""Labels of handles lie on no other label and on no other handle."""

from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cantrel.drawing import spaced

KNOBS = st.lists(
    st.tuples(
        st.text("abc", min_size=1, max_size=3), st.sampled_from(["Tie", "Rigging point", "Climber"]),
        st.tuples(st.integers(40, 430), st.integers(20, 300)), st.sampled_from(["start", "end"]),
    ),
    max_size=8,
)  # fmt: skip


class Labels(SimpleTestCase):
    @settings(deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(KNOBS)
    def test_none_covers_another(self, knobs):
        labels = []
        for k in spaced(knobs, 470):
            (x, y), wide = k["at"], 8 * len(k["label"])
            left = x + 13 if k["side"] == "start" else x - 13 - wide
            labels.append((left, left + wide, y + k["dy"]))
        self.assertEqual(len(labels), len(knobs))
        for i, (a, b, y) in enumerate(labels):
            for c, d, z in labels[:i]:
                self.assertFalse(a < d and c < b and abs(y - z) < 15, (labels, knobs))
            for _, _, (x, z), _ in knobs:
                self.assertFalse(a < x + 9 and x - 9 < b and abs(y - z - 4) < 15, (labels, knobs))
