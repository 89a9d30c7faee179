"""What blocks what, and what would save most: one constraint removed, and the plan made again."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from brunt_core.errors import InputError
from brunt_core.scheduling.solve import Plan, plan
from brunt_core.scheduling.tasks import SchedulingProblem, Task


@dataclass(frozen=True)
class Saving:
    """One constraint removed: which task, what is changed in a word, and minutes it saves.

    ``late`` are minutes late in all that it saves, ``end`` minutes by which all is done sooner;
    ``plan`` what the plan would be.
    """

    task: str
    change: str
    late: int
    end: int
    plan: Plan


def savings(
    problem: SchedulingProblem, now: Plan, seconds: float = 0.6, most: int = 8
) -> list[Saving]:
    """What would save most, the best first; only what saves something.

    Each pin is removed in turn, and one more person put on. Parameters: ``seconds`` for each trial, ``most`` trials.

    >>> from brunt_core.scheduling.tasks import Resource
    >>> oven = Resource("oven")
    >>> p = SchedulingProblem((oven,), (Task("a", "oven", 60, pinned=30), Task("b", "oven", 45, due=60)))
    >>> found = savings(p, plan(p))
    >>> [(s.task, s.change, s.late) for s in found]
    [('a', 'unpin', 75)]
    """
    found = []
    for task, change, tried in list(_trials(problem))[:most]:
        try:
            other = plan(tried, seconds)
        except InputError:
            continue
        late = sum(now.late.values()) - sum(other.late.values())
        end = now.makespan - other.makespan
        if late > 0 or (late == 0 and end > 0):
            found.append(Saving(task, change, late, end, other))
    return sorted(found, key=lambda s: (-s.late, -s.end))


def _trials(problem: SchedulingProblem) -> Iterator[tuple[str, str, SchedulingProblem]]:
    """Every pin removed; every attended task done with one more pair of hands."""
    for t in problem.tasks:
        if t.pinned is not None and t.minutes > 0:
            yield t.id, "unpin", _with(problem, {t.id: replace(t, pinned=None)})
    if problem.people is not None:
        more = SchedulingProblem(
            problem.resources, problem.tasks, problem.spells, problem.people + 1
        )
        yield "", "one more person", more


def _with(problem: SchedulingProblem, changed: Mapping[str, Task]) -> SchedulingProblem:
    tasks = tuple(changed.get(t.id, t) for t in problem.tasks)
    return SchedulingProblem(problem.resources, tasks, problem.spells, problem.people)
