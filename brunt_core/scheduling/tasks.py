"""What is to be scheduled: tasks, resources, working hours; and whether a placing keeps to them."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from brunt_core.errors import InputError

Spell = tuple[int, int]


@dataclass(frozen=True)
class Resource:
    """Something tasks run on, and how many of them at once."""

    id: str
    capacity: int = 1


@dataclass(frozen=True)
class Task:
    """One task, times in whole minutes from the start of the plan.

    ``attended`` tasks lie within one working spell; ``after`` those that end before it starts, each
    at most ``gap_max`` before (none: any time); ``temperature`` in K is that of
    its resource meanwhile, so that unlike ones never overlap there; ``not_before`` the earliest
    start; ``due`` the latest end that is not late. ``pinned`` is a start that stays; ``amount`` how
    much of its resource's capacity it takes. One that ``holds`` leaves what it worked on in its
    resource, which stays taken until those that wait for it there begin.
    """

    id: str
    resource: str
    minutes: int
    attended: bool = False
    after: tuple[str, ...] = ()
    gap_max: int | None = None
    temperature: float | None = None
    not_before: int = 0
    due: int | None = None
    pinned: int | None = None
    amount: int = 1
    holds: bool = False


@dataclass(frozen=True)
class SchedulingProblem:
    """Resources, tasks, and the spells in which somebody is there, as (from, to) in minutes.

    ``people`` is how many attended tasks there can be at once; none means any number.
    """

    resources: tuple[Resource, ...]
    tasks: tuple[Task, ...]
    spells: tuple[Spell, ...] = ()
    people: int | None = None
    by_id: Mapping[str, Task] = field(init=False, repr=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "by_id", {t.id: t for t in self.tasks})

    def successors(self, task: str) -> list[Task]:
        """The tasks that wait for this one."""
        return [t for t in self.tasks if task in t.after]

    def taking_over(self, task: Task) -> list[Task]:
        """Those that wait for a task that holds, on its own resource."""
        if not task.holds:
            return []
        return [t for t in self.successors(task.id) if t.resource == task.resource]

    def taken_until(self, task: Task, starts: Mapping[str, int]) -> int:
        """The minute from which the resource of a placed task is free of it.

        >>> p = SchedulingProblem((Resource("r"),), (Task("a", "r", 10, holds=True), Task("b", "r", 5, after=("a",))))
        >>> p.taken_until(p.by_id["a"], {"a": 0, "b": 60})
        60
        """
        over = [starts[t.id] for t in self.taking_over(task) if t.id in starts]
        return max([starts[task.id] + task.minutes, *over])


def check_problem(problem: SchedulingProblem) -> None:
    """Refuse what no placing can mend, and name the knot.

    Raises :class:`InputError`: two of one name, an unknown resource or predecessor, a time that is
    not above zero, a capacity below one, a circle of predecessors, an attended task longer than any
    spell.

    >>> check_problem(SchedulingProblem((Resource("oven"),), (Task("a", "oven", 10, after=("a",)),)))
    Traceback (most recent call last):
    brunt_core.errors.InputError: a waits for itself.
    """
    ids = [t.id for t in problem.tasks]
    twice = next((i for i in ids if ids.count(i) > 1), None)
    if twice:
        raise InputError(f"Two tasks are called {twice}.", "tasks")
    capacity = {r.id: r.capacity for r in problem.resources}
    for r in problem.resources:
        if r.capacity < 1:
            raise InputError(f"{r.id} takes nothing: its capacity is {r.capacity}.", "resources")
    longest = max((b - a for a, b in problem.spells), default=0)
    for t in problem.tasks:
        if t.resource not in capacity:
            raise InputError(f"{t.id} needs {t.resource}, which is not among the resources.", t.id)
        if not 1 <= t.amount <= capacity[t.resource]:
            raise InputError(
                f"{t.id} takes {t.amount} of {t.resource}, which has {capacity[t.resource]}.", t.id
            )
        if t.minutes <= 0:
            raise InputError(f"{t.id} takes {t.minutes} min; it must be more than none.", t.id)
        for before in t.after:
            if before not in problem.by_id:
                raise InputError(f"{t.id} waits for {before}, which is not among the tasks.", t.id)
        if t.attended and t.minutes > longest:
            there = f"{longest} min" if longest else "no time"
            raise InputError(
                f"{t.id} needs somebody there for {t.minutes} min; the longest spell has {there}.",
                t.id,
            )
    circle = _circle(problem)
    if circle:
        way = " → ".join([*circle, circle[0]])
        alone = len(circle) == 1
        raise InputError(
            f"{circle[0]} waits for itself." if alone else f"These wait for one another: {way}.",
            circle[0],
        )


def _circle(problem: SchedulingProblem) -> list[str]:
    """A circle of predecessors; empty where there is none."""
    done: set[str] = set()
    for start in problem.by_id:
        path: list[str] = []
        stack = [(start, iter(problem.by_id[start].after))]
        path.append(start)
        while stack:
            node, rest = stack[-1]
            following = next((n for n in rest if n not in done), None)
            if following is None:
                done.add(node)
                path.pop()
                stack.pop()
            elif following in path:
                return path[path.index(following) :][::-1]
            else:
                path.append(following)
                stack.append((following, iter(problem.by_id[following].after)))
    return []


def order(problem: SchedulingProblem) -> list[Task]:
    """The tasks, each behind those it waits for; of a checked problem.

    >>> p = SchedulingProblem((Resource("r"),), (Task("b", "r", 1, after=("a",)), Task("a", "r", 1)))
    >>> [t.id for t in order(p)]
    ['a', 'b']
    """
    placed: dict[str, Task] = {}
    left = list(problem.tasks)
    while left:
        ready = [t for t in left if all(b in placed for b in t.after)]
        for t in ready:
            placed[t.id] = t
        left = [t for t in left if t.id not in placed]
    return list(placed.values())


def broken(problem: SchedulingProblem, starts: Mapping[str, int]) -> Iterator[tuple[str, str]]:
    """What a placing breaks: (task, one sentence). Late ones break nothing.

    Parameters: the start of every task in minutes.

    >>> p = SchedulingProblem((Resource("oven"),), (Task("a", "oven", 10), Task("b", "oven", 10)))
    >>> [said for _, said in broken(p, {"a": 0, "b": 5})]
    ['b and a share oven, which takes 1 at a time.']
    """
    for t in problem.tasks:
        start, end = starts[t.id], starts[t.id] + t.minutes
        if start < t.not_before:
            yield t.id, f"{t.id} starts {t.not_before - start} min before it can."
        if t.attended and not any(a <= start and end <= b for a, b in problem.spells):
            yield t.id, f"{t.id} needs somebody there, and nobody is all that time."
        for before in t.after:
            done = starts[before] + problem.by_id[before].minutes
            if done > start:
                yield t.id, f"{t.id} starts before {before} is done."
            elif t.gap_max is not None and start - done > t.gap_max:
                yield (
                    t.id,
                    f"{t.id} starts {start - done} min after {before}; {t.gap_max} are the most.",
                )
    yield from _clashes(problem, starts)
    yield from _crowded(problem, starts)


def _crowded(problem: SchedulingProblem, starts: Mapping[str, int]) -> Iterator[tuple[str, str]]:
    """Attended tasks at once beyond the people there are."""
    if problem.people is None:
        return
    on = sorted((t for t in problem.tasks if t.attended), key=lambda t: starts[t.id])
    for i, t in enumerate(on):
        same = [o for o in on[:i] if starts[o.id] + o.minutes > starts[t.id]]
        if len(same) >= problem.people:
            others = " and ".join(o.id for o in same[: problem.people])
            yield t.id, f"{t.id} and {others} want somebody at once; {problem.people} can be there."


def _clashes(problem: SchedulingProblem, starts: Mapping[str, int]) -> Iterator[tuple[str, str]]:
    for resource in problem.resources:
        on = sorted(
            (t for t in problem.tasks if t.resource == resource.id), key=lambda t: starts[t.id]
        )
        for i, t in enumerate(on):
            same = [o for o in on[:i] if problem.taken_until(o, starts) > starts[t.id]]
            if sum(o.amount for o in same) + t.amount > resource.capacity:
                others = " and ".join(o.id for o in same[: resource.capacity])
                yield (
                    t.id,
                    f"{t.id} and {others} share {resource.id}, which takes {resource.capacity} at a time.",
                )
            for o in same:
                if unlike_heat(t, o):
                    yield t.id, f"{t.id} and {o.id} want {resource.id} at two temperatures at once."


def unlike_heat(one: Task, other: Task) -> bool:
    """Whether two tasks want their resource at two temperatures.

    >>> unlike_heat(Task("a", "r", 1, temperature=353.15), Task("b", "r", 1))
    False
    """
    a, b = one.temperature, other.temperature
    return a is not None and b is not None and abs(a - b) > 1e-6


def lateness(problem: SchedulingProblem, starts: Mapping[str, int]) -> dict[str, int]:
    """Minutes late by task, of those that are.

    >>> lateness(SchedulingProblem((Resource("r"),), (Task("a", "r", 10, due=8),)), {"a": 0})
    {'a': 2}
    """
    ends = {t.id: starts[t.id] + t.minutes for t in problem.tasks}
    return {
        t.id: ends[t.id] - t.due for t in problem.tasks if t.due is not None and ends[t.id] > t.due
    }


def spells_of_days(hours: Sequence[Spell], first_minute: int, days: int) -> tuple[Spell, ...]:
    """Daily working hours laid out over some days, in minutes from the start of the plan.

    Parameters: ``hours`` as minutes of the day; ``first_minute`` of the day at which the plan
    starts. A spell past midnight (22:00 to 6:00) is one; ones that meet are joined.

    >>> spells_of_days([(480, 720), (780, 1020)], 600, 1)
    ((-120, 120), (180, 420))
    """
    found = []
    for day in range(-1, days):
        for a, b in hours:
            length = (b - a) % 1440 or 1440
            begin = day * 1440 + a - first_minute
            if begin + length > 0:
                found.append((begin, begin + length))
    joined: list[Spell] = []
    for a, b in sorted(found):
        if joined and a <= joined[-1][1]:
            joined[-1] = (joined[-1][0], max(b, joined[-1][1]))
        else:
            joined.append((a, b))
    return tuple(joined)
