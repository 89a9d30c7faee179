"""Says how long the server worked on an answer, for ``./brunt bench`` and the curious."""

from time import perf_counter

from django.db import connection


class ServerTimingMiddleware:
    """Adds ``Server-Timing`` with milliseconds and the number of queries."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        counter = _Counter()
        begun = perf_counter()
        with connection.execute_wrapper(counter):
            response = self.get_response(request)
        spent = (perf_counter() - begun) * 1000
        response["Server-Timing"] = f'app;dur={spent:.1f}, db;desc="{counter.queries} queries"'
        return response


class _Counter:
    def __init__(self) -> None:
        self.queries = 0

    def __call__(self, execute, sql, params, many, context):
        self.queries += 1
        return execute(sql, params, many, context)
