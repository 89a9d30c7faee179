"""Which instrument a page may open through the bridge: an address, signed for some hours."""

import base64
import hashlib
import hmac
import json
from contextlib import suppress


def signed(address: str, until: float, secret: str) -> str:
    """A token that opens one instrument until a time."""
    told = json.dumps([address, round(until)]).encode()
    body = base64.urlsafe_b64encode(told).decode().rstrip("=")
    return f"{body}.{_seal(body, secret)}"


def opened(token: str, now: float, secret: str) -> str:
    """The address in a token; empty for one that was not signed here or is too old.

    >>> opened(signed("sim:dial", 100.0, "s"), 99.0, "s"), opened(signed("sim:dial", 100.0, "s"), 101.0, "s")
    ('sim:dial', '')
    """
    body, _, seal = token.partition(".")
    if not hmac.compare_digest(seal, _seal(body, secret)):
        return ""
    with suppress(ValueError, TypeError):
        address, until = json.loads(base64.urlsafe_b64decode(body + "=" * (-len(body) % 4)))
        return str(address) if now <= until else ""
    return ""


def _seal(body: str, secret: str) -> str:
    key = hashlib.sha256(b"brunt.instrument" + secret.encode()).digest()
    return hmac.new(key, body.encode(), hashlib.sha256).hexdigest()[:40]
