"""What goes with a day: gusts by the hour, machines booked across crews, the wood, ways compared, a quote."""

from datetime import date

from django.test import TestCase
from django.urls import reverse

from apps.crews.tests.scene import load_scene, whole_demo
from apps.day import planner
from apps.day.models import TreeWood, Workday, YardRates
from apps.exchange.planner import import_document


class More(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.fir = load_scene(whole_demo())
        cls.job = cls.fir.job
        cls.beech = cls.job.trees.get(name="Copper beech")
        cls.day = Workday.objects.create(job=cls.job, on=date(2026, 12, 1), name="Tolliver")

    def setUp(self):
        self.client.force_login(self.person)
        self.url = reverse("day", args=[self.job.pk]) + f"?day={self.day.pk}"

    def page(self):
        return self.client.get(self.url)

    def sent(self, **said):
        form = self.page().context["form"]
        data = {n: form[n].value() for n in form.fields if form[n].value() not in (None, [])}
        return data | {"revision": Workday.objects.get(pk=self.day.pk).revision} | said

    def test_gusts_by_the_hour_stop_the_day_where_the_weakest_plan_says(self):
        worked = planner.worked(Workday.objects.get(pk=self.day.pk))
        limit = next(work.gust for work in worked.trees if work.gust is not None)
        self.client.post(
            self.url, self.sent(gusts=f"8: {limit - 1:.1f}, 9: 2; 10: {limit + 1:.1f}, 11: {limit + 2:.1f}")
        )
        found = planner.worked(Workday.objects.get(pk=self.day.pk)).weather
        self.assertEqual((found.limit, found.tree), (limit, self.fir.name))
        self.assertEqual([(w.start, w.end) for w in found.windows], [(36000.0, 43200.0)])
        self.assertContains(self.page(), "from 10:00: more than the plan of Grand fir by the stream stands")
        self.client.post(self.url, self.sent(gusts="8: 1, 20: 25", start="06:00"))
        self.assertContains(self.page(), "Done before the gusts pass")

    def test_an_hour_that_is_none_is_said_at_its_field(self):
        for wrong in ("25: 3", "8 9", "8: fast", "8: -2"):
            answer = self.client.post(self.url, self.sent(gusts=wrong))
            self.assertIn("is not an hour and a gust", str(answer.context["form"].errors["gusts"]), wrong)

    def test_gusts_are_read_in_the_units_of_the_page(self):
        self.client.post(reverse("units"), {"units": "us"})
        self.client.post(self.url, self.sent(gusts="8: 10, 9: 20 mph"))
        kept = Workday.objects.get(pk=self.day.pk).gusts
        self.assertEqual([hour for hour, _ in kept], [8, 9])
        self.assertAlmostEqual(kept[1][1], 8.9408, places=3)

    def book(self, day, what, start, end):
        data = {"booking-what": what, "booking-start": start, "booking-end": end}
        return self.client.post(reverse("day-book", args=[day.job_id, day.pk]), data, follow=True)

    def test_a_machine_two_crews_have_at_once_is_said_to_both(self):
        other = Workday.objects.create(job=import_document(self.crew, whole_demo()), on=self.day.on, name="Pargeter")
        self.book(self.day, "Small crane", "09:00", "12:00")
        self.assertContains(self.book(other, "Small crane", "11:30", "15:00"), "has it at that time as well")
        self.assertContains(self.page(), "Small crane: Tolliver, Kestrel Lane allotments has it until 12:00")
        self.assertContains(self.page(), "Pargeter, Kestrel Lane allotments")  # drawn below this crew's own course
        self.book(other, "Chipper", "09:00", "12:00")
        self.assertEqual(len(planner.worked(Workday.objects.get(pk=self.day.pk)).clashes), 1)
        drop = Workday.objects.get(pk=other.pk).bookings.get(what="Small crane").pk
        self.client.post(reverse("day-book", args=[other.job_id, other.pk]), {"drop": drop})
        self.assertNotContains(self.page(), "has it until")

    def test_a_machine_is_not_given_back_before_it_is_there(self):
        self.assertContains(self.book(self.day, "Small crane", "12:00", "09:00"), "given back before it is there")
        self.assertFalse(self.day.bookings.exists())

    def wood(self, tree, **said):
        url = reverse("tree-wood", args=[tree.job_id, tree.pk])
        page = self.client.get(url).context
        data = {n: page["form"][n].value() for n in page["form"].fields}
        return self.client.post(url, data | {"revision": page["row"].revision} | said)

    def test_what_is_sold_is_not_tipped_and_brings_money(self):
        YardRates.objects.create(crew=self.crew, log_price=50.0, chip_price=0.0)
        before = planner.worked(self.day)
        self.wood(self.beech, logs="sold")
        after = planner.worked(Workday.objects.get(pk=self.day.pk))
        beech = next(one for one in after.woods if one.tree == self.beech)
        tipped = {line.what: line.amount.value for line in after.costs}["tipping"]
        was = {line.what: line.amount.value for line in before.costs}["tipping"]
        self.assertAlmostEqual(was - tipped, beech.wood.log_mass.value / 1000.0)
        self.assertAlmostEqual(after.income[0].comes_to.value, 50.0 * beech.wood.log_volume.value)

    def test_wood_and_chip_are_all_that_is_taken(self):
        for one, work in zip(planner.worked(self.day).woods, planner.worked(self.day).trees, strict=True):
            self.assertAlmostEqual(one.wood.log_mass.value + one.wood.chip_mass.value, work.mass.value)

    def test_ways_with_a_plan_stand_beside_one_another(self):
        rows = {row.tree.name: row for row in planner.ways_compared(self.job)}
        self.assertEqual([w.name for w in rows["Copper beech"].ways if w.chosen], ["in pieces"])
        self.assertEqual([w.name for w in rows[self.fir.name].ways if w.chosen], ["felled whole"])
        page = self.client.get(reverse("ways", args=[self.job.pk]))
        self.assertContains(page, "Chosen because")
        for row in rows.values():
            for way in row.ways:
                self.assertContains(page, f"{way.finish.value / 3600.0:.1f}")

    def test_a_quote_by_hand_and_without_what_it_comes_of(self):
        YardRates.objects.create(crew=self.crew, margin=0.2, tax=0.1, stump_price=80.0, money="£", log_price=40.0)
        self.wood(self.beech, stump="ground", logs="burnt", replant="Two hazels", note="Stump hole filled.")
        worked = planner.worked(Workday.objects.get(pk=self.day.pk))
        volume = next(one.wood.log_volume.value for one in worked.woods if one.tree == self.beech)
        price = 1.2 * (worked.total.value - 40.0 * volume + 80.0)
        page = self.client.get(reverse("quote", args=[self.job.pk])).content.decode().replace("\xa0", "")
        self.assertIn(f"£{round(price)}", page)
        self.assertIn(f"£{round(0.1 * price)}", page)
        self.assertIn("Two hazels", page)
        self.assertIn("Stump hole filled.", page)
        for inside in ("Chipper", "margin of", f"{worked.total.value:.0f}", "20 %"):
            self.assertNotIn(inside, page)

    def test_a_guest_sees_no_prices(self):
        self.person.role, self.person.only_job = "guest", self.job
        self.person.save()
        for name in ("quote", "ways"):
            self.assertEqual(self.client.get(reverse(name, args=[self.job.pk])).status_code, 403)

    def test_two_people_say_what_becomes_of_the_wood(self):
        self.wood(self.beech, logs="stays")
        url = reverse("tree-wood", args=[self.job.pk, self.beech.pk])
        page = self.client.get(url).context
        data = {n: page["form"][n].value() for n in page["form"].fields} | {"revision": page["row"].revision}
        self.client.post(url, data | {"replant": "Oak"})
        self.client.post(url, data | {"chip": "stays"})
        kept = TreeWood.objects.get()
        self.assertEqual((kept.logs, kept.replant, kept.chip), ("stays", "Oak", "stays"))
