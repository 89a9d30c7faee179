"""Whether this host belongs to the house: shares storage and secret with the others that work on its database.

The database keeps a mark of the secret and the mark that lies in the storage; the first host to start leaves both.
A host with another secret could not read the others' sign-ins, one with another storage would omit their photos.
"""

import hashlib
import hmac
from secrets import token_hex

from django.conf import settings
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import connection

_FILE = ".brunt-house"
_ACCEPT = "If that is meant, say so once: ./brunt manage house --accept"


def settle_marks(accept: bool = False) -> str:
    """Leave the marks where there are none, or where these are to hold; then what is wrong, empty where nothing is."""
    with connection.cursor() as cursor:
        if accept:
            cursor.execute("DELETE FROM people_house")
        cursor.execute("SELECT 1 FROM people_house")
        if cursor.fetchone() is None:
            mark = _storage_mark() or _leave_mark()
            cursor.execute(
                "INSERT INTO people_house (id, storage, secret) VALUES (1, %s, %s) ON CONFLICT DO NOTHING",
                [mark, _secret_mark()],
            )
    return stranger()


def stranger() -> str:
    """Why this host does not belong, in a sentence; empty where it does, or no host has settled yet."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT storage, secret FROM people_house")
        row = cursor.fetchone()
    if row is None:
        return ""
    storage, secret = row
    if not hmac.compare_digest(secret, _secret_mark()):
        return (
            "This host has another secret than the others that work on this database: give all of them the same "
            f"BRUNT_SECRET_KEY. {_ACCEPT}."
        )
    if _storage_mark() != storage:
        return (
            "This host does not see the files of the others that work on this database: give all of them the same "
            f"BRUNT_MEDIA folder or BRUNT_STORAGE. {_ACCEPT}."
        )
    return ""


def _secret_mark() -> str:
    return hmac.new(settings.SECRET_KEY.encode(), b"brunt.house", hashlib.sha256).hexdigest()[:40]


def _storage_mark() -> str:
    if not default_storage.exists(_FILE):
        return ""
    with default_storage.open(_FILE) as file:
        return str(file.read(80), "ascii", "replace").strip()


def _leave_mark() -> str:
    default_storage.save(_FILE, ContentFile(token_hex(16).encode()))
    return _storage_mark()
