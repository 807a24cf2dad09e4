"""Learn: said, done, read why; what comes back; rounds; what a foreman sees."""

from datetime import timedelta

from django.test import TestCase
from django.utils import timezone

from justloop.learn.models import Card, Round
from returnpath.learn import experiments, hidden_place, question

from .people import flat, person
from .test_metric_words import AMERICAN, words_of


class Learn(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)

    def get(self, path, **query):
        return flat(self.client.get(path, query).content)

    def post(self, path, **data):
        return flat(self.client.post(path, data, follow=True).content)

    def test_an_experiment_is_asked_done_and_comes_back_when_wrong(self):
        page = self.get("/learn/try/one-ohm")
        self.assertIn("A joint of one ohm", page)
        self.assertNotIn("delayed trip", page)  # the answer is not on the page yet
        page = self.post("/learn/try/one-ohm", say="instant")
        for words in ("Not so.", "The breaker: delayed trip", "Comes back today"):
            self.assertIn(words, page)
        self.assertIn("Comes back today", self.get("/learn"))
        page = self.post("/learn/try/one-ohm", say="late")
        self.assertIn("Right.", page)
        card = Card.objects.get()
        self.assertEqual((card.box, card.right, card.wrong), (1, 1, 1))
        self.assertEqual(card.due, timezone.localdate() + timedelta(days=1))
        self.post("/learn/try/one-ohm", say="maybe")
        self.assertEqual(Card.objects.get().right, 1)
        self.assertEqual(self.client.get("/learn/try/nothing").status_code, 404)

    def test_every_page_of_it_opens(self):
        for key in experiments():
            self.assertIn("big-answer", self.get(f"/learn/try/{key}"), key)
        for n in (1, 2, 3):
            self.assertIn("Everybody says what will happen", self.get(f"/learn/lessons/{n}"))
        self.assertEqual(self.client.get("/learn/lessons/5").status_code, 404)

    def test_the_metric_ones_speak_metric(self):
        for key, one in experiments().items():
            if one.is_metric:
                page = self.client.post(f"/learn/try/{key}", {"say": one.right}).content.decode()
                main = words_of(page.split("<main", 1)[1].split("</main", 1)[0])
                self.assertIn("Right.", main)
                found = [m[0] for m in AMERICAN.finditer(main)]
                # 208 V is what somebody would feel there, computed.
                self.assertEqual([w for w in found if not w.endswith(" V")], [], key)
        self.assertContains(self.client.get("/learn"), "By IEC 60364")

    def test_a_question_of_sizes_has_its_working(self):
        one = question("egc", 7)
        page = self.get("/learn/sizes/egc", seed="7")
        self.assertIn(one.ask, page)
        wrong = next(o for o in one.options if o != one.right)
        page = self.post("/learn/sizes/egc", seed="7", say=wrong)
        self.assertIn(f"Not so: {one.right}", page)
        self.assertIn('<ol class="working">', page)
        self.assertEqual(Card.objects.get().wrong, 1)
        self.assertEqual(self.client.get("/learn/sizes/socks").status_code, 404)

    def test_a_round_is_read_said_and_compared_with_the_engine(self):
        self.post("/learn/rounds", grade="1", seed="12")
        one = Round.objects.get()
        play = f"/learn/rounds/{one.pk}/play"
        page = self.post(play, do="read", kind="loop", place="c10")
        self.assertIn("28 min left", page)
        page = self.post(play, do="read", kind="loop", place="c11")
        self.assertIn("23 min left", page)  # another panel: a walk
        self.assertIn("Choose what to read", self.post(play, do="read", kind="lope", place="c10"))
        self.assertIn("Say 1", self.post(play, do="say"))
        place = hidden_place(12, 1)
        page = self.post(play, do="say", claim=place.hidden[0].key)
        self.assertIn("Named. Mend it, and prove it", page)
        other = next(c.id for c in place.site.circuits if c.id != place.hidden[0].element)
        page = self.post(play, do="read", kind="loop", place=other)
        self.assertIn("Prove it where it was wrong", page)
        page = self.post(play, do="read", kind="loop", place=place.hidden[0].element)
        self.assertIn("Found, mended, proven.", page)
        self.assertIn("The engine, from where it was called for:", page)
        self.assertIn("This round has ended", self.post(play, do="read", kind="loop", place="c10"))

    def test_opening_a_neutral_ends_it_and_time_runs_out(self):
        self.post("/learn/rounds", grade="1", seed="3")
        one = Round.objects.get()
        play = f"/learn/rounds/{one.pk}/play"
        for _ in range(4):
            self.post(play, do="read", kind="r2", place="c10")
        self.assertEqual(Round.objects.get().spent, 24)
        self.post(play, do="read", kind="r2", place="c12")
        page = self.post(play, do="read", kind="r2", place="c12")
        self.assertIn("0 are left", page)
        self.assertIn("line voltage", self.post(play, do="open-neutral"))
        self.assertEqual(Round.objects.get().end, "shock")
        for wrong in ({"grade": "9", "seed": "1"}, {"grade": "1", "seed": "x"}, {}):
            self.assertIn("Choose a grade", self.post("/learn/rounds", **wrong))

    def test_others_rounds_and_cards_are_theirs_and_a_foreman_sees_them(self):
        self.post("/learn/try/one-ohm", say="late")
        self.post("/learn/rounds", grade="1", seed="3")
        number = Round.objects.get().pk
        mate = person("robin")
        self.client.force_login(mate)
        self.assertEqual(self.client.get(f"/learn/rounds/{number}").status_code, 404)
        self.assertNotIn("One ohm is good", self.get("/learn/known"))
        mate.is_staff = True
        mate.save()
        self.assertIn("One ohm is good", self.get("/learn/known"))
        text = self.client.get("/learn/known.csv").content.decode()
        self.assertIn("wren,One ohm is good.,", text)
