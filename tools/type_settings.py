"""The settings the type checker reads: those of the product, with values for what it needs from the environment."""

import os

os.environ.setdefault("BRUNT_SECRET_KEY", "only-for-types")
os.environ.setdefault("DATABASE_URL", "postgres://nobody@127.0.0.1/none")

from brunt_web.settings import *  # noqa: F403
