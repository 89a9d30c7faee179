"""Sessions in the database, as Django keeps them; each request asks for one, by a query made once."""

from datetime import datetime

from django.contrib.sessions.backends import db
from django.contrib.sessions.models import Session
from django.db.models import QuerySet
from django.utils import timezone

from brunt_web.interface.made_once import made_once


class SessionStore(db.SessionStore):
    """Django's store; only the query is made once."""

    def _get_session_from_db(self) -> Session | None:
        found = _running(self.session_key, timezone.now()) if self.session_key else []
        if found:
            return found[0]
        return super()._get_session_from_db()  # type: ignore[misc, no-any-return]


@made_once
def _running(key: str, now: datetime) -> QuerySet[Session]:
    return Session.objects.filter(session_key=key, expire_date__gt=now)
