"""What the web process is told: database, secrets, demo mode."""

import json
import os
import secrets

from brunt_command import cluster
from brunt_command.places import STATE, state

# The demo and one's own workshop never share a database; both live in one private cluster.
DATABASES = {"demo": "brunt_demo", "own": "brunt"}


def environment(demo: bool, cluster_name: str = "demo") -> dict[str, str]:
    """The environment of the web process. An own database by DATABASE_URL is used when set."""
    kind = "demo" if demo else "own"
    url = os.environ.get("DATABASE_URL") or cluster.start(cluster_name, database=DATABASES[kind])
    return {
        **os.environ,
        "DATABASE_URL": url,
        "DJANGO_SETTINGS_MODULE": "brunt_web.settings",
        "BRUNT_SECRET_KEY": os.environ.get("BRUNT_SECRET_KEY") or _secret(),
        "BRUNT_DEMO": "1" if demo else "",
        "BRUNT_STATE": str(STATE),
        "BRUNT_MEDIA": str(STATE / ("media-demo" if demo else "media")),
    }


def _secret() -> str:
    """The signing key, made on first start and readable by its owner alone."""
    path = state("secrets.json")
    if not path.exists():
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w") as file:
            json.dump({"secret_key": secrets.token_urlsafe(48)}, file)
    return json.loads(path.read_text())["secret_key"]
