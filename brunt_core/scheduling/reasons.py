"""Why each task starts when it does, in a sentence."""

from collections.abc import Callable, Mapping

from brunt_core.scheduling.greedy import earliest
from brunt_core.scheduling.tasks import SchedulingProblem, Task, unlike_heat

Clock = Callable[[int], str]


def reasons(
    problem: SchedulingProblem, starts: Mapping[str, int], clock: Clock = str
) -> dict[str, str]:
    """A sentence for each task of a placing that breaks nothing.

    Parameters: starts in minutes; ``clock`` writes a minute for people.

    >>> from brunt_core.scheduling.tasks import Resource
    >>> p = SchedulingProblem((Resource("oven"),), (Task("a", "oven", 10), Task("b", "oven", 5)))
    >>> reasons(p, {"a": 0, "b": 10})["b"]
    'oven is taken by a until 10.'
    """
    return {t.id: _reason(problem, t, starts, clock) for t in problem.tasks}


def _reason(problem: SchedulingProblem, task: Task, starts: Mapping[str, int], clock: Clock) -> str:
    at = starts[task.id]
    if task.pinned is not None:
        return f"Pinned to {clock(at)}."
    done = {b: starts[b] + problem.by_id[b].minutes for b in task.after}
    floor = max([task.not_before, *done.values()])
    if at == floor:
        return _at_the_floor(task, at, done, clock)
    blockers = _in_the_way(problem, task, starts, at)
    if blockers:
        return _taken(task, blockers, starts, clock)
    if task.attended and not _somebody(problem, task, at - 1):
        return f"Unattended for {task.minutes} min before {clock(at)}."
    bound = [s for s in problem.successors(task.id) if s.gap_max is not None and starts[s.id] >= at]
    if bound:
        last = max(bound, key=lambda s: starts[s.id])
        return (
            f"So that {last.id} can follow within {last.gap_max} min, at {clock(starts[last.id])}."
        )
    others = {k: v for k, v in starts.items() if k != task.id}
    sooner = earliest(problem, task, others, at)
    if sooner is not None and sooner < at:
        return f"It could start at {clock(sooner)}, without benefit."
    return f"Its first place with room: {clock(at)}."


def _at_the_floor(task: Task, at: int, done: Mapping[str, int], clock: Clock) -> str:
    behind = [b for b, end in done.items() if end == at]
    if behind:
        return f"Directly after {' and '.join(behind)}."
    return (
        f"Not before {clock(at)}." if task.not_before > 0 else "At the start; nothing is blocking."
    )


def _somebody(problem: SchedulingProblem, task: Task, at: int) -> bool:
    return any(a <= at and at + task.minutes <= b for a, b in problem.spells)


def _in_the_way(
    problem: SchedulingProblem, task: Task, starts: Mapping[str, int], at: int
) -> list[Task]:
    """The tasks on its resource that end just as it starts, and kept it from starting sooner."""
    on = [t for t in problem.tasks if t.resource == task.resource and t.id != task.id]
    return [t for t in on if problem.taken_until(t, starts) == at and t.id not in task.after]


def _taken(task: Task, blockers: list[Task], starts: Mapping[str, int], clock: Clock) -> str:
    names = " and ".join(b.id for b in blockers[:3])
    at = clock(starts[task.id])
    if any(unlike_heat(task, b) for b in blockers):
        return f"{task.resource} is at another temperature for {names} until {at}."
    return f"{task.resource} is taken by {names} until {at}."
