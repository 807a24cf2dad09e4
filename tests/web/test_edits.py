"""The endpoint for edits: saving, refusing, conflicts, undo and redo, thinning."""

from django.test import Client, TestCase

from justloop.jobs import revisions
from returnpath.site import Set
from returnpath.study import study
from returnpath.working import figures

from .people import flat, job_of, person


class EditingCase(TestCase):
    """A job, its owner signed in, and the endpoint."""

    def setUp(self):
        self.owner, self.mate = person("wren"), person("mate")
        self.job = job_of(self.owner)
        self.job.crew.add(self.mate)
        self.client.force_login(self.owner)

    def edit(self, path, text, base=None, client=None, **more):
        base = self.job.latest.number if base is None else base
        data = {"path": path, "text": text, "base": base, "at": "c2", **more}
        headers = {"HX-Request": "true"}
        return (client or self.client).post(f"/jobs/{self.job.pk}/edit", data, headers=headers)

    @property
    def circuit(self):
        return self.job.latest.site.circuit("c2")


class Editing(EditingCase):
    def test_a_change_is_saved_and_everything_follows(self):
        page = self.edit("c2.length_ft", "120")
        self.assertEqual(self.circuit.length_ft, 120)
        self.assertContains(
            page, f"{figures(study(self.job.latest.site).loops['c2'].lowest_a, 4)} A"
        )
        self.assertEqual(
            self.job.latest.words, "Kitchen counter: one-way length from 85 ft to 120 ft"
        )

    def test_opening_the_bond_shows_that_nothing_opens(self):
        page = self.edit("p1.bond", "out")
        self.assertContains(page, "May not trip")
        self.assertContains(page, "120 V stays on it")

    def test_a_refused_value_is_kept_beside_its_sentence(self):
        page = self.edit("c2.length_ft", "eighty")
        self.assertEqual(page.status_code, 200)
        self.assertContains(page, "“eighty” was not understood; write 85, 85 ft or 26 m.")
        self.assertContains(page, 'value="eighty"')
        self.assertEqual(self.job.revisions.count(), 1)

    def test_without_script_a_save_leads_back_and_a_refusal_shows(self):
        address = f"/jobs/{self.job.pk}/edit"
        saved = self.client.post(address, {"path": "c2.length_ft", "text": "90", "base": 1})
        self.assertEqual(saved.status_code, 302)
        refused = self.client.post(address, {"path": "c2.length_ft", "text": "x", "base": 2})
        self.assertContains(refused, "<html")
        self.assertContains(refused, "was not understood")

    def test_a_size_is_typed_with_its_metal(self):
        page = self.edit("c2.line_size", "#10")
        self.assertContains(page, 'value="10 AWG"')
        self.edit("c2.line_size", "8 al")
        self.assertEqual((self.circuit.line_size, self.circuit.line_material), ("8", "aluminium"))
        refused = self.edit("c2.line_size", "13 al")
        self.assertContains(refused, "13 AWG is not a size")
        self.assertContains(refused, 'value="13 al"')
        self.assertContains(self.edit("p1.bond_size", "4 cu"), "write the size alone")

    def test_adding_and_removing(self):
        page = self.edit("", "15A 14/2 NM 40ft hall", op="add")
        self.assertIn("Line to enclosure at <strong>Hall</strong>", flat(page.content))
        made = self.job.latest.site.circuits[-1]
        refused = self.edit("", "15A 14/9 NM", op="add", stage="survey")
        self.assertContains(refused, "a cable is written")
        self.assertContains(refused, 'value="15A 14/9 NM"')
        self.edit(made.id, "", op="remove")
        self.assertEqual(len(self.job.latest.site.circuits), 1)

    def test_answering_the_question_uses_our_threshold(self):
        self.edit("c2.length_ft", "")
        page = self.edit("c2.length_ft", "No", op="answer", bound="9999")
        source = self.job.latest.site.sources["c2.length_ft"]
        self.assertEqual((source.kind, source.bound, source.who), ("no more than", 142, "wren"))
        self.assertNotContains(page, "is the run longer")

    def test_yes_makes_an_assumption_known(self):
        self.edit("c2.length_ft", "")
        self.edit("c2.length_ft", "", yes="75 ft")
        self.assertEqual(self.circuit.length_ft, 75)

    def test_nonsense_never_breaks_it(self):
        for data in (
            {},
            {"path": "x" * 5000, "base": "1"},
            {"path": "c2.length_ft", "base": "one"},
            {"path": "c2..", "text": "1", "base": "1"},
            {"path": "practice.id", "text": "1", "base": "1"},
            {"path": "c2.id", "text": "c9", "base": "1"},
            {"path": "c2.panel", "text": "p9", "base": "1"},
            {"path": "c2.length_ft", "text": "1e999", "base": "1"},
            {"op": "answer", "path": "c2.length_ft", "text": "No", "base": "1"},
            {"op": "answer", "path": "zz", "text": "No", "base": "1"},
            {"op": "remove", "path": "u1", "base": "1"},
            {"op": "add", "text": "\x00", "base": "1"},
            {"op": "nonsense", "path": "c2.length_ft", "text": "3", "base": "99"},
        ):
            with self.subTest(data):
                answer = self.client.post(f"/jobs/{self.job.pk}/edit", data)
                self.assertIn(answer.status_code, (200, 302))
        self.assertEqual(self.job.latest.site.circuit("c2").id, "c2")

    def test_queries_never_break_the_page(self):
        for query in (
            "at=zz&loop=zz&open=zz",
            "at=practice",
            "at=c2&open=heat",
            "at=u1",
            "open=%00",
        ):
            answer = self.client.get(f"/jobs/{self.job.pk}/service?{query}")
            self.assertEqual(answer.status_code, 200)
        self.assertEqual(self.client.get(f"/jobs/{self.job.pk}/nonsense").status_code, 404)


class TwoPeople(EditingCase):
    """Nobody's change is lost, and both are told."""

    def setUp(self):
        super().setUp()
        self.other = Client()
        self.other.force_login(self.mate)

    def test_different_facts_are_both_kept(self):
        self.edit("c2.length_ft", "120", base=1, client=self.other)
        page = self.edit("c2.breaker.rating_a", "15", base=1)
        self.assertEqual((self.circuit.length_ft, self.circuit.breaker.rating_a), (120, 15))
        self.assertContains(page, "mate saved meanwhile")
        self.assertContains(page, "Both changes are kept")

    def test_the_same_fact_shows_both_values(self):
        self.edit("c2.length_ft", "120", base=1, client=self.other)
        page = self.edit("c2.length_ft", "60", base=1)
        self.assertEqual(self.circuit.length_ft, 120)
        self.assertContains(page, "mate set this to 120 ft meanwhile")
        self.assertContains(page, "Put mine in: 60")
        self.edit("c2.length_ft", "", mine="60")
        self.assertEqual(self.circuit.length_ft, 60)

    def test_the_same_value_is_no_conflict(self):
        self.edit("c2.length_ft", "120", base=1, client=self.other)
        page = self.edit("c2.length_ft", "120", base=1)
        self.assertNotContains(page, "Put mine in")
        self.assertEqual(self.job.revisions.count(), 2)

    def test_a_part_that_was_removed_meanwhile(self):
        self.edit("c2", "", base=1, client=self.other, op="remove")
        page = self.edit("c2.length_ft", "60", base=1)
        self.assertEqual(page.status_code, 200)
        self.assertContains(page, "Circuits")


class UndoRedo(TestCase):
    def setUp(self):
        self.owner, self.mate = person("wren"), person("mate")
        self.job = job_of(self.owner)

    def save(self, feet, who=None):
        base = self.job.latest.number
        edit = Set(path="c2.length_ft", value=feet)
        return revisions.save_edits(self.job, who or self.owner, base, [edit])

    @property
    def feet(self):
        return self.job.latest.site.circuit("c2").length_ft

    def test_there_and_back(self):
        for feet in (90, 100, 110):
            self.save(feet)
        for expected in (100, 90, 85):
            revisions.undo(self.job, self.owner)
            self.assertEqual(self.feet, expected)
        self.assertIsNone(revisions.undo(self.job, self.owner))
        for expected in (90, 100, 110):
            revisions.redo(self.job, self.owner)
            self.assertEqual(self.feet, expected)
        self.assertIsNone(revisions.redo(self.job, self.owner))
        revisions.undo(self.job, self.owner)
        self.assertEqual(self.feet, 100)
        self.assertEqual(self.job.revisions.count(), 4 + 3 + 3 + 1)

    def test_any_other_save_ends_redo(self):
        self.save(90)
        revisions.undo(self.job, self.owner)
        self.assertTrue(revisions.can_redo(self.job, self.job.latest))
        self.save(70)
        self.assertFalse(revisions.can_redo(self.job, self.job.latest))
        revisions.undo(self.job, self.owner)
        self.assertEqual(self.feet, 85)

    def test_it_says_whose_change_it_takes_back(self):
        self.save(90, self.mate)
        words = revisions.undo(self.job, self.owner).words
        self.assertEqual(
            words, "Took back by mate: Kitchen counter: one-way length from 85 ft to 90 ft"
        )
        again = revisions.redo(self.job, self.owner).words
        self.assertTrue(again.startswith("Put back: Kitchen counter"))

    def test_through_the_page(self):
        self.client.force_login(self.owner)
        self.save(90)
        page = self.client.post(f"/jobs/{self.job.pk}/undo", {"at": "c2"}, follow=True)
        self.assertContains(page, "Took back: Kitchen counter")
        self.assertContains(page, 'value="85 ft"')
        page = self.client.post(f"/jobs/{self.job.pk}/redo", {"at": "c2"}, follow=True)
        self.assertContains(page, 'value="90 ft"')
        self.assertContains(self.client.get(f"/jobs/{self.job.pk}/history"), "Put back")

    def test_old_working_revisions_are_thinned_and_named_ones_stay(self):
        first = self.save(86).revision
        first.name = "as found"
        first.save()
        for feet in range(1, 130):
            self.save(200 + feet)
        kept = set(self.job.revisions.values_list("number", flat=True))
        self.assertLess(len(kept), 110)
        self.assertIn(first.number, kept)
        self.assertIn(1, kept)
        self.assertTrue(set(range(32, 132)) <= kept)
        for _ in range(140):
            revisions.undo(self.job, self.owner)
        self.assertEqual(self.feet, 85)
