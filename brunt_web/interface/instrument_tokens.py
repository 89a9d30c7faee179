"""Which instrument a page may open through the bridge, for whom, and where instruments may stand.

An address is ``tcp:host:port``, ``serial:/dev/…@speed``, ``browser:speed`` or ``sim:name``. What the web server
signs holds for some hours; the networks it may reach go with it, so that the bridge needs no database.
"""

import base64
import hashlib
import hmac
import json
import socket
from contextlib import suppress
from dataclasses import astuple, dataclass
from ipaddress import ip_address, ip_network
from pathlib import Path

from brunt_core.errors import InputError

PRIVATE = "10.0.0.0/8, 172.16.0.0/12, 192.168.0.0/16, fd00::/8"
_LOWEST, _POSTGRES = 1024, 5432


@dataclass(frozen=True)
class Wire:
    """An instrument's address, who opens it, and the networks it may stand in."""

    address: str
    who: str = ""
    networks: str = PRIVATE


def sign_token(wire: Wire, until: float, secret: str) -> str:
    """A token that opens one instrument until a time."""
    told = json.dumps([*astuple(wire), round(until)]).encode()
    body = base64.urlsafe_b64encode(told).decode().rstrip("=")
    return f"{body}.{_seal(body, secret)}"


def open_token(token: str, now: float, secret: str) -> Wire | None:
    """The wire in a token; none for one that was not signed here or is too old.

    >>> open_token(sign_token(Wire("sim:dial", "Ida"), 100.0, "s"), 99.0, "s").who
    'Ida'
    >>> open_token(sign_token(Wire("sim:dial", "Ida"), 100.0, "s"), 101.0, "s") is None
    True
    """
    body, _, seal = token.partition(".")
    if not hmac.compare_digest(seal.encode(), _seal(body, secret).encode()):
        return None
    with suppress(ValueError, TypeError):
        *told, until = json.loads(base64.urlsafe_b64decode(body + "=" * (-len(body) % 4)))
        return Wire(*told) if now <= until else None
    return None


def _seal(body: str, secret: str) -> str:
    key = hashlib.sha256(b"brunt.instrument" + secret.encode()).digest()
    return hmac.new(key, body.encode(), hashlib.sha256).hexdigest()[:40]


def checked_networks(text: str) -> str:
    """Networks parted by commas, as they are kept. Raises :class:`InputError` for what is none.

    >>> checked_networks("10.0.0.0/8 , 192.168.1.7")
    '10.0.0.0/8, 192.168.1.7/32'
    >>> checked_networks("8.8.8.0/24")
    Traceback (most recent call last):
    brunt_core.errors.InputError: 8.8.8.0/24 is not a private network; instruments must be in the workshop's own network.
    """
    found = []
    for said in (part.strip() for part in text.replace(";", ",").split(",")):
        if not said:
            continue
        try:
            network = ip_network(said, strict=False)
        except ValueError:
            raise InputError(
                f"“{said}” is not a network; write it as 192.168.1.0/24.", "networks"
            ) from None
        if not network.is_private:
            raise InputError(
                f"{said} is not a private network; instruments must be in the workshop's own network.",
                "networks",
            )
        found.append(str(network))
    return ", ".join(found)


def tcp_parts(address: str) -> tuple[str, int]:
    """Host and port of a TCP address, without its ``tcp:``. Raises ``ValueError`` for another form."""
    host, _, port = address.strip("/").rpartition(":")
    return host.strip("[]"), int(port)


def where(host: str, port: int, networks: str, own: frozenset[int] = frozenset()) -> str:
    """The IP address to connect to; it is looked up once, so that a name cannot lead elsewhere later.

    ``own`` are ports of Brunt itself, refused on this machine. Raises ``OSError`` with a sentence where nothing
    may be opened.
    """
    if not 0 < port < 65536:
        raise OSError(f"{port} is not a port")
    allowed = [ip_network(one.strip()) for one in networks.split(",") if one.strip()]
    found = {str(told[4][0]) for told in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)}
    for address in sorted(found):
        ip = ip_address(address)
        if not any(ip in network for network in allowed):
            raise OSError(f"{address} is not in a network allowed for instruments")
        if _is_here(address) and (port < _LOWEST or port == _POSTGRES or port in own):
            raise OSError(f"port {port} of this machine is not an instrument's")
    return min(found)


def _is_here(address: str) -> bool:
    """Whether an address is one of this machine's."""
    family = socket.AF_INET6 if ":" in address else socket.AF_INET
    try:
        with socket.socket(family, socket.SOCK_STREAM) as one:
            one.bind((address, 0))
    except OSError:
        return ip_address(address).is_loopback
    return True


def device(path: str) -> str:
    """A serial device's path, followed to its end. Raises ``OSError`` for one that is not a device.

    >>> device("/dev/../etc/passwd")
    Traceback (most recent call last):
    OSError: /dev/../etc/passwd is not a serial device
    """
    real = Path(path).resolve()
    if ".." in path or not path.startswith("/dev/") or not str(real).startswith("/dev/"):
        raise OSError(f"{path} is not a serial device")
    if real.exists() and not real.is_char_device():
        raise OSError(f"{path} is not a serial device")
    return str(real)
