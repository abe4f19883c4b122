"""Places of the site taken by name: where a piece is put down, where the device and the people stand."""

from apps.jobs.models import Target
from apps.takedown import planner
from apps.takedown.tests.test_bench import Scene


class Places(Scene):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.zone = cls.put("Plot 7", 6.0, -7.5)

    @classmethod
    def put(cls, name, east, north):
        x, y = cls.tree.x + east, cls.tree.y + north
        corners = [[x - 2, y - 1.5], [x + 2, y - 1.5], [x + 2, y + 1.5], [x - 2, y + 1.5]]
        return Target.objects.create(job=cls.tree.job, name=name, kind="landing_zone", outline=corners)

    def core(self, place=1):
        return planner.work_out(planner.scene_of(self.tree), self.picks())[place]

    def test_a_piece_is_put_down_on_a_place_by_its_name(self):
        answer = self.post(landing_on="Plot 7", save="1")
        self.assertEqual(answer["errors"], {})
        self.assertEqual(self.core().pick.landing, (6.0, -7.5))

    def test_it_goes_along_when_the_place_is_moved_on_the_site(self):
        self.post(landing_on="Plot 7", save="1")
        self.zone.outline = [[x + 1.0, y] for x, y in self.zone.outline]
        self.zone.save()
        self.assertEqual(self.core().pick.landing, (7.0, -7.5))

    def test_the_device_keeps_its_height_there(self):
        self.post(device_on="Plot 7", save="1")
        high = self.picks()[1]["device_at"][2]
        self.assertEqual(self.core().pick.device_place, (6.0, -7.5, high))

    def test_people_stand_where_it_is_named(self):
        self.post(tag_from_on="Plot 7", device_from_on="Plot 7", save="1")
        self.assertEqual((self.core().pick.tag_place, self.core().pick.device_from), ((6.0, -7.5), (6.0, -7.5)))

    def test_a_place_that_is_gone_is_named_at_its_field(self):
        self.post(landing_on="Plot 7", save="1")
        self.zone.delete()
        row = self.core()
        self.assertEqual(str(row.error.field), "landing_on")
        self.assertIn("Plot 7", self.client.get(self.url() + "?pick=2").content.decode())

    def test_dragging_takes_it_off_its_named_place(self):
        self.post(landing_on="Plot 7", save="1")
        page = self.client.get(self.url() + "?pick=2").content.decode()
        frame = page.split("siteplan")[1].split('data-frame="')[1].split('"')[0]
        answer = self.post(landing_on="Plot 7", handle="landing", frame=frame, x="150", y="300", save="1")
        self.assertEqual(answer["values"]["landing_on"], "")
        self.assertEqual(self.picks()[1]["landing_on"], "")

    def test_the_brief_names_it(self):
        self.post(landing_on="Plot 7", landing="", save="1")
        self.assertIn("Plot 7, 6.0", self.client.get(self.url("brief")).content.decode())
