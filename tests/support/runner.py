"""Django's runner, closing with one plain line of counts."""

import warnings

from django.test.runner import DiscoverRunner

# Tests take static files from where they are written; nothing is gathered for them.
warnings.filterwarnings("ignore", "No directory at", UserWarning)


class Runner(DiscoverRunner):
    """Prints ``N passed, N failed, N skipped`` from the real run as the last line."""

    def suite_result(self, suite, result, **kwargs):
        """The failures' count, after the closing line."""
        troubled = [test for test, _ in (*result.failures, *result.errors)]
        troubled += result.unexpectedSuccesses
        names = {getattr(test, "test_case", test).id() for test in troubled}
        failed, skipped = len(names), len(result.skipped)
        never_ran = sum(name.startswith(("setUpClass", "setUpModule")) for name in names)
        passed = result.testsRun - (failed - never_ran) - skipped
        self._closing = f"{passed} passed, {failed} failed, {skipped} skipped"
        return super().suite_result(suite, result, **kwargs)

    def run_tests(self, test_labels, **kwargs):
        """Run, tear down, then close."""
        self._closing = "0 passed, 1 failed, 0 skipped"
        try:
            return super().run_tests(test_labels, **kwargs)
        finally:
            print(self._closing, flush=True)
