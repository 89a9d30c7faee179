"""Two or more at the same moment: nothing twice, nothing lost, no page in pieces."""

from collections import Counter
from threading import Barrier, Event, Thread
from unittest.mock import patch
from uuid import uuid4

from django.contrib.auth import get_user_model
from django.db import connection
from django.test import Client, TransactionTestCase

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.added import added_later, remove_added
from brunt_web.campaigns.actions.change_plan import add_replicates, add_to_condition
from brunt_web.campaigns.models import Specimen, Turn
from brunt_web.library.models import Lot
from brunt_web.people.actions import people
from brunt_web.people.models import Invitation
from brunt_web.printing.actions.batches import BatchDraft, make_batch
from brunt_web.printing.models import Print
from brunt_web.testing.actions import change_test
from brunt_web.testing.actions.change_test import another_replicate
from brunt_web.testing.actions.curves import bring_curve
from brunt_web.testing.actions.record_test import Entry, measure
from brunt_web.testing.models import Curve, Measurement, Test
from tests.support.bench import TYPED, bench_of
from tests.support.plans import Shop, of_materials
from tests.support.workshop import BACKEND, NOW, campaign, entry, person, put, turn


def together(count, act) -> Counter:
    """Run so many at the same moment; how each ended: done, refused in words, or by what error."""
    gate, ended = Barrier(count), Counter()

    def one(number):
        try:
            gate.wait(10)
            act(number)
            ended["done"] += 1
        except InputError:
            ended["refused"] += 1
        except Exception as problem:
            ended[repr(problem)[:300]] += 1
        finally:
            connection.close()

    threads = [Thread(target=one, args=(k,)) for k in range(count)]
    for each in threads:
        each.start()
    for each in threads:
        each.join(60)
    return ended


class Together(TransactionTestCase):
    """Several hands on the same things."""

    def setUp(self):
        self.user = person()

    def test_two_fill_the_same_plate(self):
        shop = Shop(self.user)
        one = shop.plan(of_materials(shop.pla, shop.petg), n=3)
        lot = Lot.objects.get(material=shop.pla)
        ended = together(
            3,
            lambda _: make_batch(one, self.user, BatchDraft(shop.printer, shop.flat, 1, lot)),
        )
        self.assertEqual(set(ended), {"done", "refused"}, ended)
        self.assertEqual(ended["done"], 1)
        places = Counter(Print.objects.values_list("specimen", flat=True))
        self.assertEqual((len(places), set(places.values())), (3, {1}))

    def test_taken_off_the_plan_while_they_are_put_on_plates(self):
        """Whoever comes first: a specimen is on a plate or off the plan, never both and never half."""
        shop = Shop(self.user)
        lot = Lot.objects.get(material=shop.pla)
        for _ in range(3):
            one = shop.plan(of_materials(shop.pla, shop.petg), n=2)
            planned = one.specimens.count()
            add_replicates(one, 3, self.user)
            (added,) = added_later(one)
            acts = (
                lambda one=one, added=added: remove_added(one, added.act),
                lambda one=one: make_batch(
                    one, self.user, BatchDraft(shop.printer, shop.flat, 1, lot)
                ),
            )
            ended = together(2, lambda number, acts=acts: acts[number]())
            self.assertEqual(set(ended) - {"done", "refused"}, set(), ended)
            self.assertGreaterEqual(ended["done"], 1)
            there = set(one.specimens.values_list("pk", flat=True))
            printed = set(Print.objects.filter(specimen__campaign=one).values_list("specimen", flat=True))  # fmt: skip
            self.assertTrue(printed <= there)
            self.assertGreaterEqual(len(there), planned)
            turns = Turn.objects.filter(campaign=one).values_list("specimen", flat=True)
            self.assertEqual(set(turns), there)

    def test_taken_off_the_plan_while_one_of_them_is_tested(self):
        one = campaign(self.user, orientations=("flat",), replicates=2)
        add_replicates(one, 1, self.user)
        (added,) = added_later(one)
        bar = one.specimens.get(code=added.untouched[0])

        def act(number):
            if number:
                remove_added(one, added.act)
            else:
                history.made([bar], self.user, NOW, "printed elsewhere")
                put(bar, self.user, entry("500 N"))

        ended = together(2, act)
        tested = Test.objects.filter(turn__specimen=bar.pk).exists()
        self.assertEqual(
            tested, one.specimens.filter(pk=bar.pk).exists() and ended["done"] == 2, ended
        )

    def test_corrections_and_exclusions_never_wait_for_each_other_for_good(self):
        """Everybody takes the specimen first; taken in two orders, two who meet end in a deadlock."""
        one = campaign(self.user, orientations=("flat",))
        bar = one.specimens.first()
        put(bar, self.user, entry("500 N"))

        def act(number):
            for _ in range(6):
                mine = turn(bar)
                if number % 2:
                    change_test.correct(mine, self.user, entry(f"{510 + number} N"))
                elif (found := Test.objects.filter(turn=mine).first()) is not None:
                    change_test.exclude(found, f"odd {number}", self.user, NOW)

        ended = together(4, act)
        self.assertLessEqual(set(ended), {"done", "refused"}, ended)
        self.assertEqual(Test.objects.count(), 1)

    def test_one_invitation_lets_one_in(self):
        token = people.invite(self.user.seat.workshop, self.user, "tester", NOW).token
        word = "seven wet ropes"
        ended = together(4, lambda k: people.join(token, f"quill {k}", word, NOW))
        self.assertEqual(ended, {"done": 1, "refused": 3})
        self.assertIsNotNone(Invitation.objects.get().used_by_id)

    def test_replicates_and_another_from_several_hands(self):
        one = campaign(self.user, orientations=("flat",))
        bar = one.specimens.first()

        def act(number):
            if number % 2:
                another_replicate(Specimen.objects.get(pk=bar.pk), self.user)
            else:
                add_to_condition(bar.condition, [bar.procedure], 2, self.user)

        ended = together(4, act)
        self.assertLessEqual(set(ended), {"done", "refused"}, ended)
        numbers = list(
            one.specimens.filter(condition=bar.condition).values_list("replicate", flat=True)
        )
        self.assertEqual(len(set(numbers)), len(numbers))
        orders = list(Turn.objects.filter(campaign=one).values_list("run_order", flat=True))
        self.assertEqual(len(set(orders)), len(orders))
        codes = list(Specimen.objects.values_list("code", flat=True))
        self.assertEqual(len(set(codes)), len(codes))

    def test_curves_and_sizes_of_one_specimen(self):
        bar = campaign(self.user).specimens.first()
        table = "strain;force\n" + "\n".join(f"{i / 10};{i * 5}" for i in range(40))

        def act(number):
            if number % 2:
                bring_curve(turn(bar), self.user, NOW, "bar.csv", table.encode())
            else:
                one = Specimen.objects.get(pk=bar.pk)
                measure(one, self.user, NOW, {"width": f"5.0{number}", "thickness": "2.01"})

        ended = together(4, act)
        self.assertLessEqual(set(ended), {"done", "refused"}, ended)
        self.assertLessEqual(Curve.objects.count(), 1)
        self.assertEqual(
            Counter(Measurement.objects.values_list("key", flat=True)).most_common(1)[0][1], 1
        )

    def test_a_second_test_that_spends_it_at_the_same_moment(self):
        bar = campaign(self.user).specimens.first()
        ended = together(
            3, lambda _: put(bar, get_user_model().objects.first(), entry(key=uuid4()))
        )
        self.assertEqual((ended["done"], ended["refused"]), (1, 2), ended)
        self.assertEqual(Test.objects.count(), 1)

    def test_the_rack_is_whole_while_others_record(self):
        one = campaign(self.user, replicates=6, orientations=("flat",))
        bars = list(one.specimens.all())
        client = Client()
        client.force_login(self.user, backend=BACKEND)
        seen = Counter()

        def act(number):
            if number == 0:
                for bar in bars:
                    put(bar, self.user, entry())
                return
            own = Client()
            own.cookies = client.cookies
            for _ in range(8):
                for page in ("", "compare/"):
                    seen[own.get(f"/campaigns/{one.pk}/{page}").status_code] += 1

        ended = together(3, act)
        self.assertEqual(ended, Counter(done=3))
        self.assertEqual(set(seen), {200})

    def test_a_plan_looked_at_again_never_loses_a_test_stored_meanwhile(self):
        one = bench_of(self.user, "cantilever", replicates=1)
        bar, work_out = one.specimens.first(), history._settle_one
        has_read, stored = Event(), Event()

        def slowly(*told):
            has_read.set()
            stored.wait(1.0)
            return work_out(*told)

        def act(number):
            if number == 0:
                with patch.object(history, "_settle_one", slowly):
                    history.settle([Specimen.objects.get(pk=bar.pk)])
            else:
                has_read.wait(10)
                put(bar, self.user, Entry(uuid4(), NOW, TYPED["cantilever"]))
                stored.set()

        ended = together(2, act)
        self.assertEqual(ended, Counter(done=2))
        self.assertEqual(turn(bar).state, "held")
