"""What people of the demo changed afterwards: a reading put right, a rig looked at again, a spool weighed."""

from datetime import datetime
from uuid import uuid4

from django.contrib.auth import get_user_model

from brunt_web.demonstration.scenario import WORKSHOP
from brunt_web.library.actions.lots import log_drying, set_remaining, take_back_drying
from brunt_web.library.models import Lot, Rig
from brunt_web.people.at_work import name_worker
from brunt_web.people.models import Workshop
from brunt_web.testing.actions.change_test import correct
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.models import Test


def change_some(now: datetime) -> None:
    """Each in a transaction of its own, with a name."""
    shop = Workshop.objects.get(name=WORKSHOP)
    lead, volunteer = (
        get_user_model().objects.get(username=n) for n in ("bench-lead", "volunteer")
    )
    try:
        name_worker(str(volunteer.pk), str(shop.pk))
        tests = Test.objects.filter(turn__specimen__workshop=shop, outcome="broke", by=volunteer)
        test = tests.filter(readings__key="force").select_related("turn__procedure").latest("id")
        typed = {r.key: r.text for r in test.readings.all()}
        entry = Entry(uuid4(), now, typed | {"force": "61.8 kgf"}, "broke", place=test.place)
        correct(test.turn, volunteer, entry)
        lot = Lot.objects.filter(workshop=shop, remaining__gt=0.3).earliest("id")
        set_remaining(lot, round((lot.remaining or 1) - 0.042, 3))
        name_worker(str(lead.pk), str(shop.pk))
        Rig.objects.filter(workshop=shop, name="Pull frame A").update(
            note="hanging scale in a hand-cranked frame; hook bent back"
        )
        dried = log_drying(lot, lead, now, temperature=338.15, duration=4 * 3600.0)
        take_back_drying(lot, dried.pk)
    finally:
        name_worker("", "")
