"""What the jobs' worker would do, done at once."""

import re

from brunt_web.jobs.answering import answer_job
from brunt_web.jobs.models import Job


def finished(client, said):
    """The answer behind a job's page, where a form became one; the answer itself where it did not."""
    found = re.fullmatch(r"/jobs/([\w-]+)/", said.headers.get("Location", ""))
    if not found:
        return said
    answer_job(Job.objects.get(pk=found[1]))
    return client.get(found[0])
