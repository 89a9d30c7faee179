"""One task after the other at its earliest place: a first plan, and the tidying of a found one."""

from collections.abc import Mapping

from brunt_core.scheduling.tasks import SchedulingProblem, Task, order, unlike_heat


def earliest(
    problem: SchedulingProblem, task: Task, starts: Mapping[str, int], latest: int
) -> int | None:
    """The first minute a task fits at among those placed, not behind ``latest``; ``None`` if none.

    Those it waits for are placed. What it may break for tasks that wait for it is not looked at.

    >>> from brunt_core.scheduling.tasks import Resource
    >>> p = SchedulingProblem((Resource("r"),), (Task("a", "r", 10), Task("b", "r", 5)))
    >>> earliest(p, p.by_id["b"], {"a": 3}, 100), earliest(p, p.by_id["b"], {"a": 5}, 100)
    (13, 0)
    """
    if task.pinned is not None:
        return task.pinned
    done = [starts[b] + problem.by_id[b].minutes for b in task.after]
    at = max([task.not_before, *done])
    if task.gap_max is not None and done:
        latest = min(latest, min(done) + task.gap_max)
    capacity = next(r.capacity for r in problem.resources if r.id == task.resource)
    others = [
        t
        for t in problem.tasks
        if t.resource == task.resource and t.id != task.id and t.id in starts
    ]
    while at <= latest:
        moved = _into_a_spell(problem, task, at)
        if moved is None:
            return None
        clear = max(
            _clear(problem, task, moved, others, starts, capacity),
            _somebody_free(problem, task, moved, starts),
        )
        if clear == moved:
            kept = moved <= latest and _left_alone(problem, task, moved, others, starts, capacity)
            return moved if kept else None
        at = clear
    return None


def _into_a_spell(problem: SchedulingProblem, task: Task, at: int) -> int | None:
    """The first start from ``at`` on at which somebody is there all the time it needs them."""
    if not task.attended:
        return at
    fits = (max(a, at) for a, b in problem.spells if max(a, at) + task.minutes <= b)
    return min(fits, default=None)


def _left_alone(
    problem: SchedulingProblem,
    task: Task,
    at: int,
    others: list[Task],
    starts: Mapping[str, int],
    capacity: int,
) -> bool:
    """Whether what those before it left in its resource can stay there until ``at``."""
    for holder in (problem.by_id[b] for b in task.after):
        if holder.holds and holder.resource == task.resource:
            end = starts[holder.id] + holder.minutes
            waiting = Task(**{**_fields(holder), "minutes": max(at - end, 0), "holds": False})
            rest = [o for o in others if o.id != holder.id]
            if at > end and _clear(problem, waiting, end, rest, starts, capacity) != end:
                return False
    return True


def _clear(
    problem: SchedulingProblem,
    task: Task,
    at: int,
    others: list[Task],
    starts: Mapping[str, int],
    capacity: int,
) -> int:
    """``at`` where its resource has room for it, else the next end of what is in its way."""
    end = problem.taken_until(task, {**starts, task.id: at})
    over = [
        (starts[o.id], until, o)
        for o in others
        if starts[o.id] < end and (until := problem.taken_until(o, starts)) > at
    ]
    unlike = [end for _, end, o in over if unlike_heat(task, o)]
    if unlike:
        return min(unlike)
    moments = sorted({at, *(s for s, _, _ in over if s > at)})
    full = any(
        sum(o.amount for s, e, o in over if s <= m < e) + task.amount > capacity for m in moments
    )
    return min(e for _, e, _ in over) if full else at


def _somebody_free(
    problem: SchedulingProblem, task: Task, at: int, starts: Mapping[str, int]
) -> int:
    """``at`` where one of the people is free for it, else the next end of what they are at."""
    if not task.attended or problem.people is None:
        return at
    over = [
        (starts[o.id], starts[o.id] + o.minutes)
        for o in problem.tasks
        if o.attended
        and o.id != task.id
        and o.id in starts
        and starts[o.id] < at + task.minutes
        and starts[o.id] + o.minutes > at
    ]
    moments = sorted({at, *(s for s, _ in over if s > at)})
    full = any(sum(s <= m < e for s, e in over) >= problem.people for m in moments)
    return min(e for _, e in over) if full else at


def placed_one_by_one(problem: SchedulingProblem) -> dict[str, int] | None:
    """A plan by placing each where it first fits; ``None`` where a gap or a pin defeats it.

    Tasks that must follow within a gap are placed with what they follow: where they do not fit, what
    they follow is tried later.

    >>> from brunt_core.scheduling.tasks import Resource
    >>> p = SchedulingProblem((Resource("r"),), (Task("a", "r", 10), Task("b", "r", 5, after=("a",), due=20)))
    >>> placed_one_by_one(p)
    {'a': 0, 'b': 10}
    """
    starts: dict[str, int] = {t.id: t.pinned for t in problem.tasks if t.pinned is not None}
    horizon = max((b for _, b in problem.spells), default=0) + sum(t.minutes for t in problem.tasks)
    horizon += max((t.not_before for t in problem.tasks), default=0)
    urgency = {t.id: (t.due if t.due is not None else 10**9) for t in problem.tasks}
    for task in reversed(order(problem)):
        for before in task.after:
            gap = urgency[task.id] - task.minutes
            urgency[before] = min(urgency[before], gap)
    ready = list(order(problem))
    while ready:
        able = [t for t in ready if all(b in starts for b in t.after)]
        task = min(able, key=lambda t: (t.gap_max is None, urgency[t.id], t.not_before))
        chain = _chain(problem, task)
        found = _place_chain(problem, chain, starts, horizon)
        if found is None:
            return None
        starts |= found
        ready = [t for t in ready if t.id not in starts]
    return starts


def _chain(problem: SchedulingProblem, task: Task) -> list[Task]:
    """A task and those that must follow it within a gap, one by one."""
    chain = [task]
    while True:
        nearest = [
            t
            for t in problem.successors(chain[-1].id)
            if (t.gap_max is not None or chain[-1].holds) and t.pinned is None and len(t.after) == 1
        ]
        if len(nearest) != 1:
            return chain
        chain.append(nearest[0])


def _place_chain(
    problem: SchedulingProblem, chain: list[Task], starts: Mapping[str, int], horizon: int
) -> dict[str, int] | None:
    first = chain[0]
    if first.id in starts:
        return {}
    at = first.not_before
    for _ in range(400):
        moved = Task(**{**_fields(first), "not_before": at})
        begun = earliest(problem, moved, starts, horizon)
        if begun is None:
            return None
        found = {first.id: begun}
        for task in chain[1:]:
            following = earliest(problem, task, {**starts, **found}, horizon)
            if following is None:
                break
            found[task.id] = following
        else:
            return found
        at = begun + 15
    return None


def _fields(task: Task) -> dict:
    return {name: getattr(task, name) for name in task.__dataclass_fields__}


def left_shifted(problem: SchedulingProblem, starts: Mapping[str, int]) -> dict[str, int]:
    """The same plan with each task as early as it can be, none of them later, nothing broken.

    >>> from brunt_core.scheduling.tasks import Resource
    >>> p = SchedulingProblem((Resource("r"),), (Task("a", "r", 10), Task("b", "r", 5)))
    >>> left_shifted(p, {"a": 7, "b": 30})
    {'a': 0, 'b': 10}
    """
    placed = dict(starts)
    for _ in range(3):
        before = dict(placed)
        for task in sorted(problem.tasks, key=lambda t: placed[t.id]):
            others = {k: v for k, v in placed.items() if k != task.id}
            least = max(
                (
                    placed[s.id] - s.gap_max - task.minutes
                    for s in problem.successors(task.id)
                    if s.gap_max is not None
                ),
                default=0,
            )
            moved = Task(**{**_fields(task), "not_before": max(task.not_before, least)})
            at = earliest(problem, moved, others, placed[task.id])
            if at is not None and at < placed[task.id]:
                placed[task.id] = at
        if placed == before:
            break
    return placed
