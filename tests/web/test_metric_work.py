"""Work in a metric job: a ring's loop, the schedule's tests, who is counted for what."""

from importlib.resources import files

from django.test import Client, TestCase

from returnpath.assume import assume
from returnpath.network.wiring import legs_of_circuits
from returnpath.panels import face_of
from returnpath.site import Set, apply, loads

from .people import job_of, person, printed


class MetricWork(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)
        self.jobs = {}
        for name in ("foxglove", "thistle"):
            text = (files("returnpath") / "examples" / f"{name}.json").read_text("utf-8")
            self.jobs[name] = job_of(self.owner, loads(text), name)

    def bench(self, job, circuit, **more):
        """The loop tab of the circuit of that name."""
        id_ = next(c.id for c in job.latest.site.circuits if c.name == circuit)
        query = {"at": id_, "loop": id_, "more": "1", "tab": "loop"} | more
        return self.client.get(f"/jobs/{job.pk}/service", query)

    def edit(self, job, path, value):
        base = {"base": job.latest.number, "stage": "service", "op": "set"}
        form = base | {"path": path, "text": value}
        self.client.post(f"/jobs/{job.pk}/edit", form, headers={"HX-Request": "true"})

    def test_a_ring_says_its_loop_from_end_to_middle(self):
        job = self.jobs["foxglove"]
        page = self.bench(job, "Upstairs sockets", open="ring")
        self.assertContains(page, "0.28 to 0.636 Ω")
        self.assertContains(page, "30.5 m along: 0.636 Ω")
        ring = next(c.id for c in job.latest.site.circuits if c.name == "Upstairs sockets")
        self.edit(job, f"{ring}.ring_open", "neutral")
        self.assertContains(self.bench(job, "Upstairs sockets"), "its neutral is broken")

    def test_where_the_rcd_protects_it_is_named_and_the_breaker_is_not_blamed(self):
        page = self.bench(self.jobs["thistle"], "Cooker")
        self.assertContains(page, "RCD opens")
        self.assertContains(page, "fault protection: counted above")
        self.assertContains(page, "its over-current device alone may not")
        self.assertNotContains(page, '<span\n  class="figure bad">none</span>')

    def test_a_late_device_is_told_by_its_own_least_current(self):
        job = self.jobs["foxglove"]
        cooker = next(c.id for c in job.latest.site.circuits if c.name == "Cooker")
        self.edit(job, f"{cooker}.length_ft", "1500 m")
        self.assertContains(self.bench(job, "Cooker"), "less than 1.45 × its rating")
        self.edit(job, f"{cooker}.breaker.kind", "gG")
        self.assertContains(self.bench(job, "Cooker"), "less than 1.6 × its rating")

    def test_rcds_are_timed_at_five_times_where_the_practice_says_so(self):
        job = self.jobs["foxglove"]
        for asked in ("once", "also five"):
            self.edit(job, "practice.rcd_times", asked)
            _, html = printed(self.client, f"/jobs/{job.pk}/schedule.pdf")
            self.assertEqual("RCD × 5" in html, asked == "also five")
            self.assertIn("RCD × 1", html)

    def test_a_reading_at_five_times_is_never_left_out(self):
        job = self.jobs["foxglove"]
        form = {"text": "Kitchen sockets trip 5x 22", "stage": "readings"}
        self.client.post(f"/jobs/{job.pk}/readings/add", form)
        _, html = printed(self.client, f"/jobs/{job.pk}/schedule.pdf")
        self.assertIn("RCD × 5", html)

    def test_wires_are_bought_in_the_colours_of_the_rule_set(self):
        job = self.jobs["foxglove"]
        page = self.client.get(f"/jobs/{job.pk}/plan?show=parts").content.decode()
        self.assertIn("10 mm² copper, green-yellow", page)
        for other in ("bare", "white", "red"):
            self.assertNotRegex(page, rf"copper, [^<]*\b{other}\b")

    def test_two_people_at_one_ring(self):
        """Each keeps another fact; at the same fact the second is told, and keeps their words."""
        job, other = self.jobs["foxglove"], Client()
        helper = person("finch")
        job.crew.add(helper)
        other.force_login(helper)
        ring = next(c.id for c in job.latest.site.circuits if c.name == "Upstairs sockets")
        base, address = job.latest.number, f"/jobs/{job.pk}/edit"

        def say(client, fact, text):
            form = {"base": base, "stage": "service", "op": "set", "at": ring}
            form |= {"path": f"{ring}.{fact}", "text": text}
            return client.post(address, form, headers={"HX-Request": "true"})

        say(self.client, "ring_open", "line")
        say(other, "rcd_type", "B")
        kept = job.latest.site.circuit(ring)
        self.assertEqual((kept.ring_open, kept.rcd_type), ("line", "B"))
        say(self.client, "length_ft", "58 m")
        answer = say(other, "length_ft", "73 m").content.decode()
        self.assertAlmostEqual(job.latest.site.circuit(ring).length_ft * 0.3048, 58, delta=0.05)
        self.assertIn("73 m", answer)
        self.assertIn("wren", answer)

    def test_a_lost_pen_is_headed_by_what_is_on_the_metal(self):
        page = self.client.get(f"/jobs/{self.jobs['foxglove'].pk}/service?look=neutral")
        self.assertContains(page, "PEN lost: 206 V on every bonded metal")

    def test_a_boards_ways_are_one_row_and_its_phases_those_of_the_network(self):
        job = self.jobs["foxglove"]
        self.assertContains(self.client.get(f"/jobs/{job.pk}/panels"), "one row assumed")
        site = job.latest.site
        three = apply(site, Set(path=f"{site.supply.id}.system", value="400/230"))
        face = face_of(three, three.panel.id)
        legs = legs_of_circuits(assume(three).site)
        placed = [u for u in face.units if u.spaces and not u.is_feeder]
        self.assertEqual(len(placed), 8)
        for unit in placed:
            self.assertEqual(legs[unit.id], (face.leg_of(unit.spaces[0]),), unit.name)

    def test_a_boards_amperes_are_at_230_volts_and_its_names_stay_whole_words(self):
        page = self.client.get(f"/jobs/{self.jobs['foxglove'].pk}/panels").content.decode()
        self.assertIn("94 A", page)  # 21,630 VA
        self.assertNotIn("on the neutral", page)
        self.assertIn("Lights ground flo…", page)

    def test_an_array_shows_what_is_of_these_rules(self):
        job = self.jobs["thistle"]
        array = job.latest.site.arrays[0].id
        page = self.client.get(f"/jobs/{job.pk}/array?show=volts").content.decode()
        self.assertIn("both wires, copper at 70 °C", page)
        self.assertRegex(page, r"4 mm²\s+<strong>there now")
        for part in ("bars", "labels"):
            self.assertNotIn(f"show={part}", page)
            self.assertNotIn(
                "690.", self.client.get(f"/jobs/{job.pk}/array?show={part}").content.decode()
            )
        answer = self.client.get(f"/jobs/{job.pk}/labels/{array}.pdf")
        self.assertNotEqual(answer.headers["Content-Type"], "application/pdf")

    def test_an_rcd_alone_opens_by_its_own_time(self):
        page = self.bench(self.jobs["thistle"], "Cooker")
        self.assertContains(page, "by 0.04 s")
        self.assertNotContains(page, "in never")
