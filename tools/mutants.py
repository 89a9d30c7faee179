"""Faults put in by hand, one after another: each must make a test fail. ``./brunt test --mutants``.

A fault is a line of the product with one thing wrong in it, as somebody might write it. It is put into a copy
of the checkout; the tests named beside it run there. Not part of the usual run: it takes about half an hour.
"""

import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]


@dataclass(frozen=True)
class Mutant:
    """What is wrong, in words; the file with what stands there and what is put in its place; the tests to run."""

    name: str
    path: str
    before: str
    after: str
    tests: tuple[str, ...]


_STATISTICS = (
    "tests.reference.test_statistics",
    "tests.reference.test_small_samples",
    "tests.core.test_laws",
)
_RATIOS = ("tests.reference.test_ratios", "tests.reference.test_small_samples")
_COMPARISONS = "brunt_core/statistics/comparisons.py"

MUTANTS = (
    Mutant(
        "1/n of the bounded group dropped",
        _COMPARISONS,
        "sqrt(1 / measured.n + 1 / bound.n)",
        "sqrt(1 / measured.n)",
        _STATISTICS,
    ),
    Mutant(
        "a bound decides alone", _COMPARISONS, "or bound.n < 2:", "or bound.n < 1:", _STATISTICS
    ),
    Mutant(
        "degrees of freedom of a ratio's bottom are the top's",
        "brunt_core/statistics/ratios.py",
        "value * v, bottom.df or 1)",
        "value * v, top.df or 1)",
        _RATIOS,
    ),
    Mutant(
        "Fieller's g forgotten in the reach",
        "brunt_core/statistics/ratios.py",
        "sqrt(u * u * (1 - g)",
        "sqrt(u * u",
        _RATIOS,
    ),
    Mutant(
        "one sided t for a two sided interval of a ratio",
        "brunt_core/statistics/ratios.py",
        "t = t_quantile((1 + confidence) / 2, df)",
        "t = t_quantile(confidence, df)",
        _RATIOS,
    ),
    Mutant(
        "Welch's exponent",
        _COMPARISONS,
        "below = first_error**4 / first_df",
        "below = first_error**2 / first_df",
        _RATIOS,
    ),
    Mutant(
        "one sided p",
        _COMPARISONS,
        "return float(2 * scipy.special.stdtr(df",
        "return float(scipy.special.stdtr(df",
        _STATISTICS,
    ),
    Mutant(
        "a variance over n",
        "brunt_core/statistics/summaries.py",
        "values.var(ddof=1)",
        "values.var(ddof=0)",
        _STATISTICS,
    ),
    Mutant(
        "widths of readings between two values as a spread",
        "brunt_core/statistics/summaries.py",
        "np.mean(widths**2)) / 12)",
        "np.mean(widths**2)) / 3)",
        _STATISTICS,
    ),
    Mutant(
        "a group of one gets an interval of two",
        "brunt_core/statistics/summaries.py",
        "t_quantile((1 + confidence) / 2, n - 1)",
        "t_quantile((1 + confidence) / 2, n)",
        _STATISTICS,
    ),
    Mutant(
        "a rig's limit over the root of twelve",
        "brunt_core/computation/instruments.py",
        "self.relative * abs(value) / sqrt(3)",
        "self.relative * abs(value) / sqrt(12)",
        (
            "tests.core.test_methods",
            "tests.reference.test_rigs",
            "tests.core.test_quantities",
            "tests.reference.test_methods",
            "tests.core.test_doctests",
        ),
    ),
    Mutant(
        "a display's step over the root of three",
        "brunt_core/computation/instruments.py",
        "return self.resolution / sqrt(12)",
        "return self.resolution / sqrt(3)",
        ("tests.core.test_doctests", "tests.reference.test_small_samples"),
    ),
    Mutant(
        "the grid of the scale mirrored at its lower end",
        "brunt_core/statistics/distributions.py",
        "np.linspace(-1.2 - 4.5 / sqrt(told)",
        "np.linspace(-0.2 + 0.1 / sqrt(told)",
        ("tests.reference.test_distributions", "tests.reference.test_tolerance"),
    ),
    Mutant(
        "the tails of a quantile exchanged",
        "brunt_core/statistics/distributions.py",
        "return self.bound(share, tail), self.bound(share, 1 - tail)",
        "return self.bound(share, 1 - tail), self.bound(share, tail)",
        ("tests.reference.test_distributions",),
    ),
    Mutant(
        "degrees of freedom of all that were tested instead of those that broke",
        "brunt_core/statistics/summaries.py",
        "        df=exact - 1,\n",
        "        df=n - 1,\n",
        _STATISTICS,
    ),
    Mutant(
        "a tolerance factor without its root of n",
        "brunt_core/statistics/tolerance.py",
        "z * sqrt(n))) / sqrt(n)",
        "z * sqrt(n))) / n",
        ("tests.reference.test_tolerance",),
    ),
    Mutant(
        "the noncentral t with n degrees of freedom",
        "brunt_core/statistics/tolerance.py",
        "nct.ppf(confidence, n - 1,",
        "nct.ppf(confidence, n,",
        ("tests.reference.test_tolerance",),
    ),
    Mutant(
        "a step's key keeps the order of its words",
        "brunt_core/planning/levels.py",
        "        words.sort()\n",
        "        pass\n",
        ("tests.core.test_doctests",),
    ),
    Mutant(
        "several steps are the same in any order",
        "brunt_core/planning/levels.py",
        "    if not (_SEQUENCE & set(words)",
        "    if True or not (_SEQUENCE & set(words)",
        ("tests.core.test_doctests",),
    ),
    Mutant(
        "the order of words decides whether treatments are alike",
        "brunt_web/campaigns/requirements.py",
        '"treatments": [t.key for t in self.to_do]',
        '"treatments": [t.what for t in self.to_do]',
        ("tests.web.test_requirements",),
    ),
    Mutant(
        "a void promotes no spare",
        "brunt_web/testing/actions/record_test.py",
        '    if outcome == "void" and not standing:\n        promote_spare(turn.specimen)\n',
        "",
        (
            "tests.web.test_actions",
            "tests.web.test_small_samples",
            "tests.web.test_bench_actions",
            "tests.web.test_planning",
            "tests.web.test_making",
        ),
    ),
    Mutant(
        "excluded specimens count among siblings",
        "brunt_web/results/reading.py",
        "        Result.objects.counted()\n        .filter(\n            turn__condition_id",
        "        Result.objects\n        .filter(\n            turn__condition_id",
        (
            "tests.web.test_bench_actions",
            "tests.web.test_one_truth",
            "tests.web.test_bench_views",
            "tests.web.test_actions",
        ),
    ),
    Mutant(
        "excluded results count",
        "brunt_web/results/models.py",
        "COUNTED = Q(turn__excluded=False)",
        "COUNTED = Q()",
        (
            "tests.web.test_one_truth",
            "tests.web.test_compare_views",
            "tests.web.test_material_page",
        ),
    ),
    Mutant(
        "an import says nothing of what was tested all the same",
        "brunt_web/exchange/actions/import_data.py",
        'return said or ("imported from a file" if',
        'return said or ("" if',
        ("tests.web.test_import_data", "tests.web.test_exchange", "tests.web.test_history"),
    ),
    Mutant(
        "a specimen that was destroyed is tested again",
        "brunt_web/campaigns/history.py",
        'if turn.state == "gone" or (specimen.spent and not turn.spends):',
        'if turn.state == "gone":',
        ("tests.web.test_history", "tests.web.test_actions", "tests.web.test_runs"),
    ),
    Mutant(
        "an undone test leaves its specimen destroyed",
        "brunt_web/campaigns/history.py",
        "specimen.spent = any(t.spends for t in turns)",
        "specimen.spent = specimen.spent or any(t.spends for t in turns)",
        ("tests.web.test_history", "tests.web.test_actions"),
    ),
    Mutant(
        "a deviation of an undone test stays",
        "brunt_web/campaigns/history.py",
        "        if turn.done:\n            found += [",
        "        if turn.tested_as or turn.done:\n            found += [",
        ("tests.web.test_history", "tests.web.test_levels_act"),
    ),
    Mutant(
        "an entry that arrives again is stored again",
        "brunt_web/testing/models.py",
        '    turn = models.OneToOneField(Turn, models.PROTECT, related_name="test")\n    entry_key = models.UUIDField(unique=True)',
        '    turn = models.OneToOneField(Turn, models.PROTECT, related_name="test")\n    entry_key = models.UUIDField()',
        ("tests.web.test_actions", "tests.web.test_races", "tests.guards.test_house"),
    ),
    Mutant(
        "marks of decimals in a file",
        "brunt_web/people/ways.py",
        'and "." not in request.path.rpartition("/")[2]:',
        "and True:",
        ("tests.web.test_ways",),
    ),
    Mutant(
        "marks looked for in a picture",
        "brunt_web/people/ways.py",
        " and kind in WITH_MARKS:",
        ":",
        ("tests.web.test_ways",),
    ),
    Mutant(
        "points of a person's words turned to commas",
        "brunt_web/interface/ways.py",
        'parts[i] = part.replace(_MARK, b"." if i % 2 or inside else b",")',
        'parts[i] = part.replace(_MARK, b"." if i % 2 or inside else b",").replace(b".", b"." if i % 2 or inside else b",")',
        ("tests.web.test_ways",),
    ),
    Mutant(
        "a package's changes keep the keys of where they came from",
        "brunt_web/packages/earlier.py",
        "row=keys[change.table][change.row],",
        "row=change.row,",
        ("tests.web.test_packages",),
    ),
    Mutant(
        "a stranger's row in a package",
        "brunt_web/packages/earlier.py",
        "not 1 <= change.row <= sizes[change.table]",
        "not 1 <= change.row",
        ("tests.web.test_packages",),
    ),
)


def survivors(chosen: Sequence[Mutant] = MUTANTS) -> list[Mutant]:
    """Those that no test saw; each is told as it is tried."""
    lived = []
    with tempfile.TemporaryDirectory(prefix="brunt-mutants-") as folder:
        copy = _copied(Path(folder) / "brunt")
        for i, mutant in enumerate(chosen, 1):
            seen = _seen(copy, mutant)
            print(
                f"{i:3} of {len(chosen)}  {'seen' if seen else 'LIVED':5}  {mutant.name}",
                flush=True,
            )
            if not seen:
                lived.append(mutant)
    return lived


def _copied(place: Path) -> Path:
    """The checkout's files as they stand, with its environment beside them."""
    names = subprocess.run(
        ["git", "ls-files", "-co", "--exclude-standard"],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=True,
    ).stdout.splitlines()
    for name in names:
        if (ROOT / name).is_file():
            (place / name).parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(ROOT / name, place / name)
    (place / ".venv").symlink_to((ROOT / ".venv").resolve())
    return place


def _seen(copy: Path, mutant: Mutant) -> bool:
    """Whether a test fails with it. Raises :class:`SystemExit` where the line it changes is not there once."""
    path = copy / mutant.path
    text = path.read_text()
    if text.count(mutant.before) != 1:
        sys.exit(
            f"{mutant.name}: what it changes stands {text.count(mutant.before)} times in {mutant.path}."
        )
    path.write_text(text.replace(mutant.before, mutant.after))
    try:
        return _run(copy, mutant.tests) != 0
    finally:
        path.write_text(text)


def _run(copy: Path, tests: Sequence[str]) -> int:
    plain = all(t.startswith(("tests.core", "tests.reference")) for t in tests)
    if plain:
        command = [sys.executable, "-m", "unittest", "-f", *tests]
    else:
        command = [
            str(copy / "brunt"),
            "test",
            "--no-browser",
            "--parallel",
            "1",
            "--failfast",
            *tests,
        ]
    environment = {**os.environ, "PYTHONPATH": str(copy)}
    done = subprocess.run(command, cwd=copy, env=environment, capture_output=True)
    return done.returncode


if __name__ == "__main__":
    wanted = sys.argv[1:]
    picked = [m for m in MUTANTS if not wanted or any(w in m.name for w in wanted)]
    sys.exit(1 if survivors(picked) else 0)
