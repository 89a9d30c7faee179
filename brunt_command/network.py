"""Where a tablet in the workshop finds Brunt: addresses, and a code to point its camera at."""

import os
import socket
import subprocess

from brunt_command.places import PYTHON

_LOCAL = ("127.0.0.1", "localhost", "::1")


def own_address() -> str:
    """This machine's address on its network, as far as is known; nothing is sent."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))
        except OSError:
            return ""
        return str(probe.getsockname()[0])


def seen_at(host: str) -> list[str]:
    """The addresses others reach it by; none where it answers on this machine alone."""
    if host in _LOCAL:
        return []
    if host not in ("0.0.0.0", "::", ""):
        return [host]
    found = own_address()
    return [found] if found and found not in _LOCAL else []


def hosts(host: str) -> dict[str, str]:
    """What the web process is told about the names it answers to."""
    names = [*_LOCAL[:2], *seen_at(host), socket.gethostname()]
    return {} if host in _LOCAL else {"BRUNT_HOSTS": ",".join(dict.fromkeys(n for n in names if n))}


def print_addresses(host: str, port: int, scheme: str = "http") -> None:
    """The address for a tablet, and its code."""
    for name in seen_at(host):
        address = f"{scheme}://{name}:{port}/"
        print(f"  on the workshop's network  {address}\n", flush=True)
        drawn = f"import segno; segno.make({address!r}, micro=False).terminal(compact=True)"
        subprocess.run([str(PYTHON), "-c", drawn], check=False)
        print(
            "  Anybody on that network can open the sign-in page: use it only where you trust it."
        )
        if scheme == "http" and not os.environ.get("BRUNT_HTTPS"):
            print(
                "  Passwords go through that network in clear, for this is plain HTTP: --tls makes a certificate and "
                "answers by https, or put a proxy that ends TLS before it (README)."
            )
