"""Who has an instrument: one person, for one pull of one specimen."""

from dataclasses import dataclass

# A page that reloads or is cut off for a moment keeps what it had.
GRACE = 10.0


@dataclass
class Lease:
    """Held by one page of a browser since a moment; lines up to ``first`` were read before and are nobody's."""

    client: str
    who: str
    specimen: str
    since: float
    first: int
    streams: int = 1
    left: float | None = None


class Leases:
    """The lease of one instrument."""

    def __init__(self) -> None:
        self.now: Lease | None = None

    def free(self, at: float) -> bool:
        """Whether anybody may take it."""
        held = self.now
        return held is None or (held.left is not None and at - held.left > GRACE)

    def take(self, asks: Lease, at: float, over: bool = False) -> Lease | None:
        """Taken up for a specimen, from the line after ``first``; none while another has it."""
        if not over and not self.free(at) and self.now and self.now.client != asks.client:
            return None
        self.now = asks
        return asks

    def resume(self, client: str, since: int, at: float) -> Lease | None:
        """The same page after it was cut off; none where it read before it took the specimen up, or had lost it."""
        held = self.now
        if held is None or held.client != client or since < held.first:
            return None
        held.streams, held.left = held.streams + 1, None
        return held

    def leave(self, client: str) -> None:
        """Given back by the page that has it."""
        if self.now and self.now.client == client:
            self.now = None

    def ended(self, held: Lease, at: float) -> None:
        """One of its streams ended, by the page or by the network."""
        held.streams -= 1
        if held.streams <= 0:
            held.left = at
