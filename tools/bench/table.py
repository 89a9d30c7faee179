"""``bench``: measures speed and growth against something measured in the same run, prints a table."""

import argparse
import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable

from brunt_command import cluster
from brunt_command.places import ROOT

ROUNDS = 30


def main() -> int:
    """Build a scratch database, measure, print, throw it away; 1 where an answer failed."""
    parser = argparse.ArgumentParser(prog="./brunt bench", description=main.__doc__)
    parser.add_argument("--rounds", type=int, default=ROUNDS)
    parser.add_argument("--only", default="", help="measure what has these words in its name")
    parser.add_argument("--goals", action="store_true", help="only the goals, as ratios")
    chosen = parser.parse_args()
    try:
        return _bench(chosen.rounds, chosen.only, chosen.goals)
    finally:
        cluster.remove_cluster("bench")


def _bench(rounds: int, only: str, only_goals: bool) -> int:
    cluster.remove_cluster("bench")
    os.environ |= {
        "DATABASE_URL": cluster.start_cluster("bench"),
        "BRUNT_SECRET_KEY": "only-for-bench",
        "BRUNT_DEMO": "1",
        "BRUNT_TESTING": "1",
        "DJANGO_SETTINGS_MODULE": "brunt_web.settings",
    }
    subprocess.run(
        [sys.executable, "-m", "django", "migrate", "--no-input", "-v", "0"], check=True, cwd=ROOT
    )
    import django

    django.setup()
    from tools.bench import cases as bench_cases
    from tools.bench import goals as bench_goals

    if only_goals:
        user, client, campaign = bench_cases.prepared()
        for line in bench_goals.told(bench_goals.goals(user, client, campaign)):
            print(line, flush=True)
        return 0
    print(f"{'what':<58}{'median ms':>11}{'p95 ms':>9}{'of health':>11}  note")
    base = 0.0
    for name, run, note in bench_cases.cases():
        if base and only not in name:
            continue
        median, p95 = measure(
            run, rounds if "3MF" not in name and "G-code" not in name else min(rounds, 5)
        )
        base = base or median
        show(name, median, p95, base, note())
    failed = 0
    for name, times, goal, wrong in bench_cases.load() if only in "8 testers" else ():
        failed += wrong
        show(name, *middle_and_tail(sorted(times)), base, f"{goal}; {wrong} failed")
    if not only:
        print()
        for line in bench_goals.told(bench_goals.goals(*bench_cases.last)):
            print(line, flush=True)
    return 1 if failed else 0


def measure(run: Callable[[], object], rounds: int) -> tuple[float, float]:
    """Median and 95th percentile in milliseconds, after one run that does not count."""
    run()
    times = []
    for _ in range(rounds):
        begun = time.perf_counter()
        run()
        times.append((time.perf_counter() - begun) * 1000)
    return middle_and_tail(sorted(times))


def middle_and_tail(times: list[float]) -> tuple[float, float]:
    """Median and 95th percentile of sorted times."""
    return statistics.median(times), times[min(int(len(times) * 0.95), len(times) - 1)]


def show(name: str, median: float, p95: float, base: float, note: str) -> None:
    """One line of the table."""
    print(f"{name:<58}{median:>11.1f}{p95:>9.1f}{median / base:>10.1f}×  {note}", flush=True)


if __name__ == "__main__":
    sys.exit(main())
