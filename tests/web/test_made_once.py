"""Queries whose SQL is made once answer as the query does, whatever their arguments are."""

from datetime import timedelta
from threading import Thread

from django.db import connection, transaction
from django.db.models import F, Q
from django.db.transaction import TransactionManagementError
from django.test import TestCase, TransactionTestCase
from django.utils.safestring import mark_safe

from brunt_web.campaigns.models import LifeEvent, Specimen, Turn
from brunt_web.interface.made_once import made_once
from tests.support.workshop import NOW, campaign, person


class MadeOnce(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(cls.user)
        cls.codes = sorted(cls.one.specimens.values_list("code", flat=True))

    def test_answers_for_each_argument_by_itself(self):
        @made_once
        def of(campaign_id, code):
            rows = Turn.objects.filter(campaign_id=campaign_id, specimen__code=code)
            return rows.select_related("specimen__condition", "procedure").only("specimen__code", "procedure__name", "specimen__condition__label")  # fmt: skip

        for code in self.codes:
            with self.assertNumQueries(1):
                (turn,) = of(self.one.pk, code)
                self.assertEqual((turn.specimen.code, turn.specimen.condition.label != ""), (code, True))  # fmt: skip
        self.assertEqual(of(self.one.pk, mark_safe(self.codes[0])), of(self.one.pk, self.codes[0]))
        self.assertEqual(of(self.one.pk, "no such"), [])
        self.assertEqual(of(self.one.pk, "'; DROP TABLE"), [])

    def test_its_sql_is_made_at_the_first_call(self):
        calls = []

        @made_once
        def of(pk):
            calls.append(pk)
            return Specimen.objects.filter(pk=pk)

        for specimen in self.one.specimens.all():
            self.assertEqual(of(specimen.pk), [specimen])
        self.assertEqual(len(calls), 2)

    def test_times_texts_unions_and_columns(self):
        now = NOW + timedelta(microseconds=31_000)

        @made_once
        def told(code, now):
            rows = LifeEvent.objects.filter(specimen__code=code, at__lt=now).order_by("-at")
            later = LifeEvent.objects.filter(at__gte=now).order_by("at")
            return rows.values_list("what", "at")[:1].union(later.values_list("what", "at")[:1], all=True)  # fmt: skip

        specimen = Specimen.objects.get(code=self.codes[0])
        LifeEvent.objects.all().delete()
        for what, at in (("before", NOW), ("after", now + timedelta(1))):
            LifeEvent.objects.create(specimen=specimen, kind="x", what=what, by=self.user, at=at)
        self.assertEqual([w for w, _ in told(specimen.code, now)], ["before", "after"])
        self.assertEqual([w for w, _ in told("other", now)], ["after"])

    def test_a_constant_that_looks_like_an_argument_stays(self):
        @made_once
        def of(pk):
            return Specimen.objects.filter(Q(pk=pk) | Q(pk=31_000) | Q(pk=32_000)).order_by("pk")

        self.assertEqual([s.code for s in of(self.one.specimens.first().pk)], [self.one.specimens.first().code])  # fmt: skip

    def test_what_cannot_be_made_once_is_refused(self):
        @made_once
        def left_out(pk, more):
            return Specimen.objects.filter(pk=pk)

        @made_once
        def sliced(most):
            return Specimen.objects.all()[:most]

        @made_once
        def listed(pks):
            return Specimen.objects.filter(pk__in=pks)

        @made_once
        def changed(text):
            return Specimen.objects.filter(code__startswith=text)

        @made_once
        def depends(pk):
            rows = Specimen.objects.filter(pk=pk)
            return rows.filter(spare=False) if pk == 31_000 else rows

        calls = (
            lambda: left_out(1, 2),
            lambda: sliced(3),
            lambda: listed([1]),
            lambda: changed("A"),
            lambda: depends(1),
        )
        for call in calls:
            with self.assertRaises(TypeError):
                call()

    def test_an_argument_may_stand_in_several_places(self):
        @made_once
        def of(pk):
            return Turn.objects.filter(specimen_id=pk, specimen__pk=F("specimen_id")).filter(~Q(pk=0) & Q(specimen__id=pk))  # fmt: skip

        one = self.one.specimens.last()
        self.assertEqual([t.specimen_id for t in of(one.pk)], [one.pk] * one.turns.count())


@made_once
def _locked(pk):
    return Specimen.objects.filter(pk=pk).select_for_update()


class OnItsOwnConnection(TransactionTestCase):
    def test_threads_ask_each_on_its_own(self):
        one = campaign(person())
        codes = dict(one.specimens.values_list("pk", "code"))
        found = {}

        def ask(pk):
            with transaction.atomic():
                found[pk] = _locked(pk)[0].code
            connection.close()

        threads = [Thread(target=ask, args=(pk,)) for pk in codes]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(found, codes)

    def test_rows_are_locked_inside_a_transaction_only(self):
        one = campaign(person()).specimens.first()
        with transaction.atomic():
            self.assertEqual(_locked(one.pk), [one])
        with self.assertRaises(TransactionManagementError):
            _locked(one.pk)
