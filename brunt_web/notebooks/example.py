"""Ten lines of Python that draw the ladder in a notebook; the tests run them as they stand."""

_LINES = """\
import requests, matplotlib.pyplot as plt
key = {{"Authorization": "Bearer {secret}"}}
ladder = requests.get("{base}/campaigns/{campaign}/ladder", headers=key).json()
for rung in ladder["rungs"]:
    y = -rung["place"]
    plt.plot(rung["values"], [y] * len(rung["values"]), "o", mfc="white", mec="black")
    if rung["low"] is not None:
        plt.hlines(y, rung["low"], rung["high"], lw=8, alpha=0.3)
plt.yticks([-r["place"] for r in ladder["rungs"]], [r["condition"] for r in ladder["rungs"]])
plt.xlabel(f"{{ladder['procedure']}}, {{ladder['unit']}}")"""


def example(base: str, secret: str, campaign: int) -> str:
    """The lines for an address, a token and a campaign.

    >>> example("http://x/api/v1", "brunt_1", 2).count(chr(10))
    9
    """
    return _LINES.format(base=base, secret=secret, campaign=campaign)
