"""Ten lines of Python that draw the ranking in a notebook; the tests run them as they stand."""

_LINES = """\
import requests, matplotlib.pyplot as plt
key = {{"Authorization": "Bearer {secret}"}}
ranking = requests.get("{base}/campaigns/{campaign}/ranking", headers=key).json()
for row in ranking["rows"]:
    y = -row["place"]
    plt.plot(row["values"], [y] * len(row["values"]), "o", mfc="white", mec="black")
    if row["low"] is not None:
        plt.hlines(y, row["low"], row["high"], lw=8, alpha=0.3)
plt.yticks([-r["place"] for r in ranking["rows"]], [r["condition"] for r in ranking["rows"]])
plt.xlabel(f"{{ranking['procedure']}}, {{ranking['unit']}}")"""


def example_lines(base: str, secret: str, campaign: int) -> str:
    """The lines for an address, a token and a campaign.

    >>> example_lines("http://x/api/v1", "brunt_1", 2).count(chr(10))
    9
    """
    return _LINES.format(base=base, secret=secret, campaign=campaign)
